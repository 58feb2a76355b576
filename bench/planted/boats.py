"""One page with many things that pages seldom have, and a fault for each of them."""

from __future__ import annotations

import io
import wave
from pathlib import Path

from bench.planted.faults import Files, Planted, text
from tests.sites import photo

_HERE = Path(__file__).parent / "boats"
_FONTS = Path("/usr/share/fonts/truetype/dejavu")


def site() -> Files:
    """The page, its frame, drawing and sound, and two fonts of the system's."""
    sound = io.BytesIO()
    with wave.open(sound, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(1)
        out.setframerate(8000)
        out.writeframes(b"\x80" * 4000)
    return {
        **{file.name: file.read_bytes() for file in _HERE.iterdir()},
        "a.jpg": photo(320, 200),
        "b.jpg": photo(800, 500, 3),
        "c.jpg": photo(300, 200, 4),
        "f.ttf": (_FONTS / "DejaVuSerif.ttf").read_bytes(),
        "g.ttf": (_FONTS / "DejaVuSans-Bold.ttf").read_bytes(),
        "a.wav": sound.getvalue(),
        "in.html": b"<!doctype html><p>In</p><a href=x.html>x</a>",
        "d.svg": b'<svg xmlns="http://www.w3.org/2000/svg" width="50" height="50"><rect width="50" height="50"/></svg>',
        "d.json": b'{"k":[1,2]}',
        "app.webmanifest": b'{"name":"B"}',
        "x.js": b"export default 1",
    }


# Name, kind, file, text there, text instead, device.
_ROWS = [
    ('theme colour', 'meaning', 'index.html', '<meta name="theme-color" content="#223344">', '', 'phone'),
    ('manifest', 'meaning', 'index.html', '<link rel="manifest" href="app.webmanifest">', '', 'phone'),
    ('viewport', 'meaning', 'index.html', '<meta name="viewport" content="width=device-width, initial-scale=1">', '', 'phone'),
    ('importmap', 'meaning', 'index.html', '<script type="importmap">{"imports":{"x":"./x.js"}}</script>', '', 'phone'),
    ('target blank', 'meaning', 'index.html', ' target="_blank" rel="noopener"', '', 'phone'),
    ('itemprop', 'meaning', 'index.html', ' itemprop="name"', '', 'phone'),
    ('usemap', 'meaning', 'index.html', ' usemap="#m"', '', 'phone'),
    ('area', 'meaning', 'index.html', 'href="/bow.html"', 'href="/stern.html"', 'phone'),
    ('area coords', 'meaning', 'index.html', 'coords="0,0,100,100"', 'coords="0,0,10,10"', 'phone'),
    ('picture source', 'meaning', 'index.html', '<source media="(min-width: 700px)" srcset="b.jpg">', '', 'desktop'),
    ('srcset', 'meaning', 'index.html', 'srcset="b.jpg 800w, c.jpg 300w" sizes="100vw" ', '', 'desktop'),
    ('novalidate', 'meaning', 'index.html', ' novalidate', '', 'phone'),
    ('legend', 'meaning', 'index.html', '<legend>Rent</legend>', '<p>Rent</p>', 'phone'),
    ('min', 'meaning', 'index.html', ' min="2026-01-01"', '', 'phone'),
    ('pattern', 'meaning', 'index.html', ' pattern="[A-Z]{3}"', '', 'phone'),
    ('maxlength', 'meaning', 'index.html', ' maxlength="3"', '', 'phone'),
    ('datalist option', 'meaning', 'index.html', '<option value="DEF">', '', 'phone'),
    ('option value', 'meaning', 'index.html', '<option value="3">Canoe', '<option value="4">Canoe', 'phone'),
    ('option selected', 'meaning', 'index.html', ' selected', '', 'phone'),
    ('option order', 'meaning', 'index.html', '<option value="1">Skiff</option>', '', 'phone'),
    ('radio name', 'meaning', 'index.html', 'name="pay" value="card"', 'name="pays" value="card"', 'phone'),
    ('radio checked', 'meaning', 'index.html', ' checked> Cash', '> Cash', 'phone'),
    ('readonly', 'meaning', 'index.html', ' readonly', '', 'phone'),
    ('button value', 'meaning', 'index.html', ' name="go" value="1"', '', 'phone'),
    ('reset type', 'meaning', 'index.html', 'type="reset"', 'type="button"', 'phone'),
    ('tabindex', 'meaning', 'index.html', ' tabindex="0"', '', 'phone'),
    ('role', 'meaning', 'index.html', ' role="combobox"', '', 'phone'),
    ('aria-selected', 'meaning', 'index.html', ' aria-selected="true"', '', 'phone'),
    ('draggable', 'meaning', 'index.html', ' draggable="true"', '', 'phone'),
    ('contenteditable', 'meaning', 'index.html', ' contenteditable="true"', '', 'phone'),
    ('spellcheck', 'meaning', 'index.html', ' spellcheck="false"', '', 'phone'),
    ('svg title', 'meaning', 'index.html', '<title>Wave</title>', '', 'phone'),
    ('svg use', 'meaning', 'index.html', '<use href="#w"/>', '', 'phone'),
    ('svg animate', 'meaning', 'index.html', '<animate attributeName="r" values="8;10;8" dur="2s" repeatCount="indefinite"/>', '', 'phone'),
    ('details name', 'meaning', 'index.html', '<details name="faq"><summary>Sec', '<details><summary>Sec', 'phone'),
    ('popovertarget', 'meaning', 'index.html', ' popovertarget="pop"', '', 'phone'),
    ('popover deep link', 'meaning', 'index.html', '/deep.html', '/shallow.html', 'phone'),
    ('audio src', 'meaning', 'index.html', ' src="a.wav"', '', 'phone'),
    ('audio controls', 'meaning', 'index.html', '<audio controls', '<audio', 'phone'),
    ('video loop', 'meaning', 'index.html', ' loop muted', ' muted', 'phone'),
    ('poster', 'meaning', 'index.html', ' poster="c.jpg"', '', 'phone'),
    ('frame title', 'meaning', 'index.html', ' title="Map"', '', 'phone'),
    ('frame allow', 'meaning', 'index.html', ' allow="fullscreen"', '', 'phone'),
    ('object', 'meaning', 'index.html', 'data="d.svg"', 'data="e.svg"', 'phone'),
    ('template', 'meaning', 'index.html', '<p>Row</p>', '<p>Column</p>', 'phone'),
    ('dir', 'meaning', 'index.html', '<p dir="rtl">', '<p>', 'phone'),
    ('lang', 'meaning', 'index.html', '<p lang="fr" class="fr">', '<p class="fr">', 'phone'),
    ('aria-expanded', 'meaning', 'index.html', ' aria-expanded="false" aria-controls="nav"', ' aria-controls="nav"', 'phone'),
    ('aria-controls', 'meaning', 'index.html', ' aria-controls="nav"', '', 'phone'),
    ('font face', 'style', 's.css', '@font-face{font-family:Carter;src:url(f.ttf)}', '', 'phone'),
    ('font face bold', 'style', 's.css', '@font-face{font-family:Bold;src:url(g.ttf);font-weight:700}', '', 'phone'),
    ('sticky bar', 'style', 's.css', '.bar{position:sticky;top:0;', '.bar{', 'phone'),
    ('bar when scrolled', 'style', 's.css', '.bar.small{padding:0;box-shadow:0 1px 4px #0005}', '', 'phone'),
    ('nav opens', 'style', 's.css', 'nav.on{display:block}', '', 'phone'),
    ('nav on desktop', 'style', 's.css', 'nav{display:block}.burger{display:none}', '.burger{display:none}', 'desktop'),
    ('columns', 'style', 's.css', '.lead{columns:2}', '', 'desktop'),
    ('hover none', 'style', 's.css', '@media (hover:none){nav a{padding:8px}}', '', 'phone'),
    ('resolution', 'style', 's.css', '@media (min-resolution:2dppx){.lead{border-top:.5px solid #333}}', '', 'phone'),
    ('dark', 'style', 's.css', '.edit{background:#111}', '', 'phone'),
    ('print', 'style', 's.css', '.drop{break-inside:avoid;display:none}', '', 'phone'),
    ('page rule', 'style', 's.css', '@page{margin:3cm}', '', 'phone'),
    ('user-invalid', 'style', 's.css', 'input:user-invalid{outline:2px solid #c00}', '', 'phone'),
    ('out of range', 'style', 's.css', 'input:out-of-range{background:#fdd}', '', 'phone'),
    ('read-only', 'style', 's.css', 'input:read-only,textarea:read-only{color:#777}', '', 'phone'),
    ('select focus', 'style', 's.css', 'select:focus-visible{outline:3px solid #06c}', '', 'phone'),
    ('option checked', 'style', 's.css', 'option:checked{font-weight:bold}', '', 'phone'),
    ('has checked', 'style', 's.css', 'label:has(input:checked){font-weight:700;font-family:Bold}', '', 'phone'),
    ('dd focus', 'style', 's.css', '.dd:focus{outline:2px dotted #a33}', '', 'phone'),
    ('dd open', 'style', 's.css', '.dd.open ul{box-shadow:0 4px 8px #0004}', '', 'phone'),
    ('cursor', 'style', 's.css', 'cursor:grab;', '', 'phone'),
    ('active cursor', 'style', 's.css', '.drop:active{cursor:grabbing}', '', 'phone'),
    ('resize', 'style', 's.css', 'resize:both;', '', 'phone'),
    ('container', 'style', 's.css', '@container (min-width:300px){.cq p{color:#062}}', '', 'phone'),
    ('reverse', 'style', 's.css', 'flex-direction:row-reverse', '', 'phone'),
    ('snap', 'style', 's.css', 'scroll-snap-type:x mandatory', '', 'phone'),
    ('sticky note', 'style', 's.css', '.sticky{position:sticky;top:40px}', '', 'phone'),
    ('fade', 'style', 's.css', '.fade.in{opacity:1}', '', 'phone'),
    ('counter', 'style', 's.css', '.count{counter-increment:c}', '', 'phone'),
    ('counter reset', 'style', 's.css', ';counter-reset:c', '', 'phone'),
    ('quotes', 'style', 's.css', 'q{quotes:"<" ">"}', '', 'phone'),
    (':lang', 'style', 's.css', '.fr:lang(fr){font-style:italic}', '', 'phone'),
    ('details open', 'style', 's.css', 'details[open] summary{color:#a33}', '', 'phone'),
    ('marker content', 'style', 's.css', 'details summary::marker{content:"+ "}', '', 'phone'),
    ('popover border', 'style', 's.css', '[popover]{border:2px solid #258}', '', 'phone'),
    ('popover backdrop', 'style', 's.css', '[popover]::backdrop{background:#0003}', '', 'phone'),
    ('layer order', 'style', 's.css', '@layer a,b;', '', 'phone'),
    ('layer b', 'style', 's.css', '@layer b{.count{color:#a00}}', '', 'phone'),
    ('top link', 'style', 's.css', '.top{position:fixed;right:9px;bottom:9px}', '', 'phone'),
    ('attr after', 'style', 's.css', 'a[target=_blank]::after{content:" \\2197"}', '', 'phone'),
    ('burger dead', 'scripts', 'j.js', 'n.classList.toggle("on");', '', 'phone'),
    ('burger aria', 'scripts', 'j.js', 'b.setAttribute("aria-expanded",n.classList.contains("on"))', '0', 'phone'),
    ('scroll bar', 'scripts', 'j.js', 'document.querySelector(".bar").classList.toggle("small",scrollY>80);', '', 'phone'),
    ('top shows', 'scripts', 'j.js', 'document.querySelector(".top").hidden=scrollY<900', '', 'phone'),
    ('dd click', 'scripts', 'j.js', 'dd.addEventListener("click",function(){open(!dd.classList.contains("open"))});', '', 'phone'),
    ('dd arrow', 'scripts', 'j.js', 'if(e.key==="ArrowDown"){open(true)}', '', 'phone'),
    ('dd escape', 'scripts', 'j.js', 'if(e.key==="Escape"){open(false)}', '', 'phone'),
    ('dblclick', 'scripts', 'j.js', '"dblclick"', '"dblclic"', 'phone'),
    ('dblclick does', 'scripts', 'j.js', 'this.textContent="Twice"', '', 'phone'),
    ('dragstart', 'scripts', 'j.js', '"dragstart"', '"dragstar"', 'phone'),
    ('contextmenu', 'scripts', 'j.js', '"contextmenu"', '"contextmen"', 'phone'),
    ('contextmenu does', 'scripts', 'j.js', 'this.textContent="Own menu"', '', 'phone'),
    ('slash key', 'scripts', 'j.js', 'if(e.key==="/"){document.querySelector("[name=code]").focus()}', '', 'phone'),
    ('hashchange', 'scripts', 'j.js', 'addEventListener("hashchange",function(){document.body.dataset.hash=location.hash});', '', 'phone'),
    ('hashchange does', 'scripts', 'j.js', 'document.body.dataset.hash=location.hash', '', 'phone'),
    ('resize', 'scripts', 'j.js', 'addEventListener("resize",function(){document.body.dataset.w=innerWidth});', '', 'phone'),
    ('matchMedia', 'scripts', 'j.js', 'matchMedia("(min-width:900px)").addEventListener("change",function(e){n.classList.remove("on")});', '', 'phone'),
    ('reveal', 'scripts', 'j.js', 'e.target.classList.add("in")', '0', 'phone'),
    ('sum', 'scripts', 'j.js', 'f.sum.value=f.n.value*5+" coins"', 'f.sum.value=f.n.value*6+" coins"', 'phone'),
    ('validation', 'scripts', 'j.js', 'f.code.setCustomValidity("Three letters");document.body.dataset.bad=1', '', 'phone'),
    ('beforeprint', 'scripts', 'j.js', 'addEventListener("beforeprint",function(){});', '', 'phone'),
    ('paste', 'scripts', 'j.js', '"paste"', '"past"', 'phone'),
    ('video play', 'scripts', 'j.js', '"play"', '"plays"', 'phone'),
    ('custom element', 'scripts', 'j.js', '"boat-row"', '"boat-raw"', 'phone'),
    ('global', 'scripts', 'j.js', 'rent:function(){return 1},', '', 'phone'),
    ('prototype', 'scripts', 'j.js', 'Array.prototype.last=function(){return this[this.length-1]};', '', 'phone'),
    ('dataLayer', 'scripts', 'j.js', 'dataLayer.push({a:1});', '', 'phone'),
    ('fetch', 'scripts', 'j.js', 'Boats.more=x', '', 'phone'),
    ('intersection gone', 'scripts', 'j.js', '.observe(document.querySelector(".fade"))', '.takeRecords()', 'phone'),
]  # fmt: skip
FAULTS = [
    Planted(f"boats: {name}", kind, "boats", "/index.html", text(file, old, new), file, (device,))
    for name, kind, file, old, new, device in _ROWS
]
