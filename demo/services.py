"""Stand-ins for the outside services that the demo's pages embed; they weigh what such things weigh. All invented."""

from __future__ import annotations

import io
import random
from collections.abc import Callable, Iterator
from functools import lru_cache, partial
from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTFont

from demo.pictures import icon, jpeg, landscape, png, still_life

PLAYER = "player.lanternreel.example"
MAPS = "maps.wayfold.example"
FEED = "feed.gullperch.example"
CHAT = "chat.hailpost.example"
TICKETS = "book.stilegate.example"
TAGS = "tags.pegboardly.example"
COUNT = "count.pailmark.example"
FACES = "faces.letterhod.example"
# Family, weight and the installed font whose outlines stand in for it.
FAMILIES = (
    ("Saltings", 400, "/usr/share/fonts/truetype/liberation/LiberationSerif-Regular.ttf"),
    ("Saltings", 700, "/usr/share/fonts/truetype/liberation/LiberationSerif-Bold.ttf"),
    ("Sluice", 400, "/usr/share/fonts/truetype/liberation/LiberationSans-Regular.ttf"),
    ("Sluice", 700, "/usr/share/fonts/truetype/liberation/LiberationSans-Bold.ttf"),
    ("Damsel", 400, "/usr/share/fonts/truetype/liberation/LiberationSans-Italic.ttf"),
    ("Quern", 400, "/usr/share/fonts/truetype/liberation/LiberationMono-Regular.ttf"),
)
_DOT = "47494638396101000100800000000000ffffff21f90401000000002c00000000010001000002024401003b"  # GIF, 1 px
_WORDS = [
    "frame",
    "buffer",
    "track",
    "cue",
    "layer",
    "stage",
    "cursor",
    "panel",
    "queue",
    "state",
    "event",
    "source",
    "target",
    "index",
    "offset",
    "width",
    "height",
    "scale",
    "volume",
    "seek",
    "range",
    "label",
    "handler",
    "option",
    "render",
    "update",
    "attach",
    "detach",
    "measure",
    "resolve",
    "commit",
]

Answer = tuple[str, dict[str, str], Callable[[], bytes]]


def filler(name: str, size: int, seed: int) -> str:
    """About `size` bytes of script of which nothing is called: as varied as a minified library is."""
    draw = random.Random(seed)
    out, length, number = [f"var {name}={{}};"], 0, 0
    while length < size:
        a, b, c, d = (draw.choice(_WORDS) for _ in range(4))
        number += 1
        key = f"{a}{b.capitalize()}{number:x}"
        limit, shift = draw.randrange(9999), draw.randrange(64)
        body = draw.choice(
            (
                f"{name}.{key}=function(t,e){{var n={limit},r=t.{c}||[];for(var i=0;i<r.length;i++){{if(r[i].{d}>"
                f"n)return e(r[i],{shift});n+=r[i].{b}<<{shift % 7}}}return null}};",
                f"{name}.{key}=function(t){{return "
                f't&&t.{c}?"{d}-"+t.{c}.toString({2 + shift % 34})+"/{draw.getrandbits(40):x}":{{{b}:{limit},'
                f'{d}:"{draw.getrandbits(32):x}"}}}};',
                f"{name}.{key}=function(t,e,n){{switch(t){{case {limit}:return e.{c}(n);case "
                f"{limit + shift}:return e.{d}=n,!0;default:throw new Error('{a} {c} "
                f"{draw.getrandbits(24):x}')}}}};",
            )
        )
        out.append(body)
        length += len(body)
    return "\n".join(out)


def _frame(title: str, head: str, body: str) -> bytes:
    return (
        f'<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>{title}</title>{head}</head>'
        f"<body>{body}</body></html>"
    ).encode()


def _post(number: int) -> bytes:
    return jpeg(still_life(640, 640, 950 + number, (150, 130, 90), (240, 226, 190)), 88)


@lru_cache(maxsize=16)
def font(path: str, family: str, weight: int) -> bytes:
    """A web font from an installed one, under the invented name, with the characters of many languages."""
    options = subset.Options(
        layout_features=[], notdef_outline=True, hinting=False, drop_tables=["DSIG", "FFTM", "GPOS", "GSUB"]
    )
    with TTFont(path, recalcTimestamp=False) as face:
        cutter = subset.Subsetter(options)
        cutter.populate(unicodes=[*range(0x20, 0x530), *range(0x1E00, 0x2200)])
        cutter.subset(face)
        for record in face["name"].names:
            record.string = f"{family} {weight}" if record.nameID in (1, 3, 4, 16) else "Invented for a demonstration"
        face.flavor = "woff2"
        out = io.BytesIO()
        face.save(out)
    return out.getvalue()


def face_styles() -> str:
    """The font service's style sheet."""
    return "\n".join(
        f'@font-face {{ font-family: "{family}"; font-weight: {weight}; font-style: normal; font-display: swap; '
        f"src: url(//{FACES}/f/{family.lower()}-{weight}.woff2) format('woff2'); }}"
        for family, weight, _ in FAMILIES
    )


def _loads(*urls: str, kind: str = "script") -> str:
    return "".join(
        f'(function(){{var s=document.createElement("{kind}");s.src="{url}";document.head.appendChild(s)}})();'
        for url in urls
    )


_FEED_SCRIPT = f"""(function(){{var box=document.querySelector("[data-gullperch]");if(!box)return;
var f=document.createElement("iframe");f.src="//{FEED}/frame?of=merrow";f.title="Posts of the mill";
f.style.cssText="width:100%;height:420px;border:0";box.appendChild(f)}})();"""
_TICKET_SCRIPT = f"""(function(){{var box=document.querySelector("[data-stilegate]");if(!box)return;
var f=document.createElement("iframe");f.src="//{TICKETS}/frame?event="+box.dataset.stilegate;f.title="Tickets";
f.style.cssText="width:100%;height:360px;border:0";box.appendChild(f)}})();"""
_CHAT_SCRIPT = f"""(function(){{var b=document.createElement("button");b.type="button";b.textContent="Ask us";
b.style.cssText="position:fixed;right:18px;bottom:18px;padding:12px 18px;"
+"border:0;border-radius:22px;background:#2f8a86;color:#fff";
document.body.appendChild(b);fetch("//{CHAT}/v1/greeting.json").then(function(r){{return r.json()}}).
then(function(g){{b.title=g.words}});
b.addEventListener("click",function(){{b.textContent="We are at the wheel, back at high water"}})}})();"""
_PLAYER_SCRIPT = f"""(function(){{var p=document.querySelector(".play");
fetch("//{PLAYER}/config.json").then(function(r){{return r.json()}})
.then(function(c){{document.querySelector(".name").textContent=c.title}});
p.addEventListener("click",function(){{p.textContent="Playing"}})}})();"""
_TAG_SCRIPT = (
    _loads(f"//{CHAT}/loader.js") + f'new Image().src="//{COUNT}/b.gif?visit="+Math.random().toString(36).slice(2);'
)


def answers() -> Iterator[tuple[str, Answer]]:
    """Every address of the services with its media type, header fields and what makes its body."""
    js, css, html_ = "text/javascript", "text/css", "text/html"
    day, none, hour = (
        {"cache-control": "max-age=86400"},
        {"cache-control": "no-store"},
        {"cache-control": "max-age=3600"},
    )
    tagged = {"etag": '"1"', "cache-control": "no-cache"}

    def text(media_type: str, fields: dict[str, str], make: Callable[[], str | bytes]) -> Answer:
        def body() -> bytes:
            made = make()
            return made if isinstance(made, bytes) else made.encode()

        return media_type, fields, body

    yield f"{PLAYER}/embed/sluice", text(html_, none, lambda: _frame(
        "The sluice opens",
        f'<link rel="stylesheet" href="//{PLAYER}/player.css"><script src="//{PLAYER}/core.js"></script>',
        f'<div class="poster"><img src="//{PLAYER}/poster.jpg" alt=""><button class="play" type="button">'
        'Play</button><p class="name"></p></div>'
        f'<script src="//{PLAYER}/player.js"></script>',
    ))  # fmt: skip
    yield f"{PLAYER}/core.js", text(js, hour, lambda: filler("reel", 1_150_000, 1))
    yield f"{PLAYER}/player.js", text(js, hour, lambda: filler("lantern", 520_000, 2) + _PLAYER_SCRIPT)
    yield (
        f"{PLAYER}/player.css",
        text(
            css,
            hour,
            lambda: (
                "body{margin:0;background:#111;color:#fff;font:14px "
                "sans-serif}.poster img{width:100%;"
                "display:block}.play{position:absolute;left:45%;top:42%;"
                "padding:14px 22px}.name{position:absolute;left:14px;"
                "top:4px}"
                + "".join(f".lr-{w}-{n}{{opacity:.{n};margin:{n}px}}" for w in _WORDS for n in range(1, 30))
            ),
        ),
    )
    yield f"{PLAYER}/poster.jpg", text("image/jpeg", day, lambda: jpeg(landscape(1280, 720, 901, mill=True), 90))
    yield (
        f"{PLAYER}/config.json",
        text("application/json", none, lambda: '{"title": "The sluice opens", "seconds": 94}'),
    )
    tiles = "".join(f'<img src="//{MAPS}/t/{n}.png" alt="" width="256" height="256">' for n in range(6))
    yield f"{MAPS}/embed", text(html_, none, lambda: _frame(
        "Map of Merrow", f'<script src="//{MAPS}/map.js"></script>',
        f'<div style="width:768px;line-height:0">{tiles}</div>'))  # fmt: skip
    yield f"{MAPS}/map.js", text(js, hour, lambda: filler("fold", 760_000, 3))
    for n in range(6):
        yield f"{MAPS}/t/{n}.png", text("image/png", day, lambda n=n: png(landscape(256, 256, 930 + n)))  # type: ignore[misc]
    yield f"{FEED}/feed.js", text(js, tagged, lambda: filler("gull", 210_000, 4) + _FEED_SCRIPT)
    posts = "".join(f'<img src="//{FEED}/p/{n}.jpg" alt="Post {n}" width="120" height="120">' for n in range(6))
    yield (
        f"{FEED}/frame",
        text(html_, none, lambda: _frame("Posts", f'<script src="//{FEED}/frame.js"></script>', posts)),
    )
    yield f"{FEED}/frame.js", text(js, tagged, lambda: filler("perch", 340_000, 5))
    for n in range(6):
        yield f"{FEED}/p/{n}.jpg", text("image/jpeg", none, partial(_post, n))
    yield f"{CHAT}/loader.js", text(js, {}, lambda: _loads(f"//{CHAT}/v1/chat.js"))
    yield f"{CHAT}/v1/chat.js", text(js, {}, lambda: filler("hail", 480_000, 6) + _CHAT_SCRIPT)
    yield (
        f"{CHAT}/v1/greeting.json",
        text("application/json", none, lambda: '{"words": "Somebody answers within a tide"}'),
    )
    yield f"{TICKETS}/widget.js", text(js, tagged, lambda: filler("stile", 260_000, 7) + _TICKET_SCRIPT)
    yield f"{TICKETS}/frame", text(html_, none, lambda: _frame(
        "Tickets", f'<script src="//{TICKETS}/frame.js"></script>',
        '<form><p><label>How many? <input type="number" value="2" min="1"></label></p><button>To the till</button>'
        '</form>'))  # fmt: skip
    yield f"{TICKETS}/frame.js", text(js, tagged, lambda: filler("gate", 390_000, 8))
    yield f"{TAGS}/t.js", text(js, none, lambda: filler("peg", 120_000, 9) + _TAG_SCRIPT)
    yield f"{COUNT}/b.gif", text("image/gif", none, lambda: bytes.fromhex(_DOT))
    yield f"{FACES}/css", text(css, {"cache-control": "no-store"}, face_styles)
    for family, weight, path in FAMILIES:
        if Path(path).exists():
            url = f"{FACES}/f/{family.lower()}-{weight}.woff2"
            yield url, text("font/woff2", day, partial(font, path, family, weight))
    yield f"{FEED}/mark.png", text("image/png", day, lambda: png(icon(64, "pin", (45, 74, 115))))
