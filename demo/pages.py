"""The pages, the theme's style sheet and its script."""

from __future__ import annotations

from demo.services import FACES, FEED, MAPS, PLAYER, TAGS, TICKETS, filler

_NAV = "".join(
    f'<li><a href="{href}">{text}</a></li>'
    for href, text in (
        ("index.html", "Home"),
        ("visit.html", "Visit us"),
        ("shop.html", "Flour shop"),
        ("events.html", "Events"),
        ("journal.html", "Journal"),
    )
)


def _page(title: str, body: str) -> str:
    return f"""<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="generator" content="Saltings 4.2">
<title>{title}</title>
<!--[if lt IE 9]><script src="theme/parts/shim.js"></script><![endif]-->
<link rel="dns-prefetch" href="//counter.lodestar.example">
<link rel="stylesheet" href="//{FACES}/css?family=saltings,sluice,damsel,quern">
<link rel="stylesheet" href="theme/theme.css">
<link rel="icon" href="images/icon-wheel.png">
</head>
<body>
<header class="top"><a class="brand" href="index.html"><img src="images/icon-wheel.png" alt="" width="36" height="36">
Merrow Tide Mill</a><button class="menu-button" aria-expanded="false">Menu</button><ul class="menu">{_NAV}</ul></header>
{body}
<footer class="foot"><p>Merrow Tide Mill, Quay Lane, Merrow. Open from March to October, two hours either side of
high water.</p><p><i class="icon icon-tide"></i> Tide tables <i class="icon icon-quay"></i> How to find us
<i class="icon icon-bell"></i> When the wheel turns</p></footer>
<script src="theme/library.js"></script>
<script src="theme/parts/library.js"></script>
<script src="theme/theme.js"></script>
<script async src="//{TAGS}/t.js?id=TM-1684"></script>
</body>
</html>
"""


def home() -> str:
    """The home page: a hero as the camera took it, three cards, the gallery far below."""
    gallery = "\n".join(
        f'<figure><img src="images/gallery/{n:02}.jpg" alt="The estuary, view {n}"><figcaption>View '
        f"{n}</figcaption></figure>"
        for n in range(1, 13)
    )
    return _page(
        "Merrow Tide Mill",
        f"""<main>
<section class="hero slides"><img src="images/estuary-hero.jpg" alt="The mill at high water">
<img class="later" src="images/slide-2.jpg" alt="The pond at dawn"><img class="later" src="images/slide-3.jpg"
alt="The quay in winter">
<button class="next" type="button" aria-controls="slides">Next</button></section>
<section class="text"><h1>The wheel turns twice a day</h1>
<p>When the pond is full and the tide has gone, the sluice opens and the great wheel goes round. It has done so since
1684, with one long rest. Come and hear the stones run, and take home a bag of what they grind.</p></section>
<section class="cards">
<article><img src="images/flour-shop.jpg"
alt="Bags of flour"><h2>Flour shop</h2><p>Stoneground wheat, spelt and rye.</p></article>
<article><img src="images/stones.jpg"
alt="The mill stones"><h2>The stones</h2><p>Dressed by hand, every spring.</p></article>
<article><img src="images/marsh.png"
alt="The salt marsh"><h2>The marsh</h2><p>Redshank, curlew and a bench.</p></article>
</section>
<section class="text"><h2>How a tide mill works</h2>
<p>The flood fills the pond through a gate that shuts itself. At low water the miller lets the pond out under the
wheel. There are two tides a day, and they come fifty minutes later every day, so the miller slept when he could.</p>
<p>Our wheel is four metres across, undershot, of oak and elm. The shaft is the trunk of one tree. Of the three pairs
of stones, two still grind.</p>
<p>What you hear first is the damsel, the square iron that shakes the shoe that feeds the grain. Then the stones, which
sound like a far-off train. Then, if you are quiet, the water.</p></section>
<section class="band"><p>Milling days follow the moon. The table of tides is on the visit page.</p></section>
<section class="text"><h2>Friends of the mill</h2><p>Forty people keep the roof on, the wheel turning and the
kettle hot. Carpenters, bakers, bell-ringers and a retired pilot. New hands are welcome on
the first Saturday of the month.</p>
<p>The mill was a ruin in living memory. The last miller left in the winter when the pond froze; ivy took the roof, and
a gale took the ivy. What stands today was put back board by board.</p></section>
<section class="text"><h2>The sluice opens</h2><iframe class="film" src="//{PLAYER}/embed/sluice"
title="Film: the sluice opens"></iframe></section>
<section class="text"><h2>Lately</h2><div data-gullperch="merrow"></div><script
src="//{FEED}/feed.js"></script></section>
<section class="gallery"><h2>From the quay</h2><div class="grid">{gallery}</div></section>
</main>""",
    )


def visit() -> str:
    """The visit page: icons as large PNG files, the tide table as a photograph of a screen."""
    return _page(
        "Visit us, Merrow Tide Mill",
        f"""<main>
<section class="hero low"><img src="images/quay.jpg" alt="The quay at low water"></section>
<section class="text"><h1>Visit us</h1><p>The mill lies at the end of Quay Lane. Park at the church and walk: it is ten
minutes along the sea wall, and the wall is level.</p></section>
<section class="facts">
<p><img src="images/icon-clock.png" alt="" width="48" height="48">Open two hours either side of high water.</p>
<p><img src="images/icon-pin.png" alt="" width="48" height="48">Quay Lane, Merrow. The bus stops at the church.</p>
<p><img src="images/icon-wheel.png" alt="" width="48" height="48">Milling on the days marked in the table.</p>
</section>
<section class="text"><h2>Tides this month</h2><p>Grinding starts about three hours after high water.</p>
<p><img class="wide" src="images/tide-table.jpg" alt="Times of high water and milling days"></p>
<p class="hours">6 9 12 15 18 21</p></section>
<section class="text"><h2>Where we are</h2><iframe class="film" src="//{MAPS}/embed?at=merrow"
title="Map of Merrow"></iframe></section>
<section class="text"><h2>Bringing a group</h2><p>Up to twenty people fit on the stone floor. Schools come free. Write
to us a fortnight before, and say which tide.</p><p>The stairs are steep, as millers were thin. The ground floor,
the shop and the tea room can all be reached without a step.</p></section>
<section class="cards">
<article><img src="images/flour-shop.jpg" alt="Bags of flour"><h2>Shop</h2><p>Open whenever we are.</p></article>
<article><img src="images/tea-room.jpg"
alt="Bread on a board"><h2>Tea room</h2><p>Bread from our own flour.</p></article>
<article><img src="images/stones.jpg" alt="The mill stones"><h2>Tours</h2><p>Half an hour, on the hour.</p></article>
</section>
</main>""",
    )


def shop() -> str:
    """The shop: many pictures of goods, a background video behind the title."""
    goods = "\n".join(
        f'<article><img src="images/shop/{n:02}.jpg" alt="{name}"><h2>{name}</h2><p>{text}</p></article>'
        for n, (name, text) in enumerate(_GOODS, 1)
    )
    return _page(
        "Flour shop, Merrow Tide Mill",
        f"""<main>
<section class="moving"><video
src="media/stones-turning.mp4" autoplay muted loop playsinline></video><h1>Flour shop</h1></section>
<section class="text"><p>What the stones grind on Saturday is on the shelf on Sunday. Bring your own bag.</p></section>
<section class="cards">{goods}</section>
<section class="text"><h2>How we pack</h2><details><summary>Paper, string and a stamp</summary><p>Every bag carries the
tide it was ground on. <img src="images/stamp.png" alt="The stamp" width="90" height="90"></p></details></section>
</main>""",
    )


_GOODS = [
    ("Wholemeal wheat", "Coarse, for a loaf that keeps a week."),
    ("Fine wheat", "Bolted twice, for cakes."),
    ("Rye", "From the next parish, dark and sweet."),
    ("Spelt", "For those who like a nutty crust."),
    ("Bran", "By the bag, for hens and for bread."),
    ("Semolina", "What stays on the sieve."),
]


def events() -> str:
    """The events: a list built of many small elements, and a ticket widget of another host."""
    rows = "\n".join(
        f'<li class="event"><div><div><div class="day"><span>{1 + n * 3 % 28}</span></div><div class="what"><h3>'
        f"{name}</h3><p>{text}</p></div></div></div></li>"
        for n, (name, text) in enumerate(_EVENTS * 4)
    )
    return _page(
        "Events, Merrow Tide Mill",
        f"""<main>
<section class="hero low"><img src="images/quay.jpg" alt="The quay at low water"></section>
<section class="text"><h1>Events</h1><span class="pulse"><i></i></span><ul class="events">{rows}</ul></section>
<section class="text"><h2>Tickets</h2><div data-stilegate="spring-tide"></div><script
src="//{TICKETS}/widget.js"></script></section>
</main>""",
    )


_EVENTS = [
    ("Spring tide milling", "Both stones run, and the sluice stays open for three hours."),
    ("Dressing day", "See how a stone is lifted and its furrows are cut."),
    ("Bread in the yard", "The oven is lit at six; loaves come out at noon."),
    ("Bird walk", "With somebody who knows a dunlin from a knot."),
    ("Songs by lamplight", "Upstairs, for twenty people and one fiddle."),
]

_ENTRIES = [
    (
        "A new shaft",
        "The old one had a crack that we could put a hand in. The new one is green oak from the next parish.",
    ),
    ("Eels again", "Three of them, in the tail race, each as long as a boot. The pass we built last year works."),
    ("Dressing the stones", "A week with mill bill and thrift. The furrows are sharp and so are our tempers."),
    ("First rye", "It smells of hay and came off the stones warm. The baker took all of it."),
    ("The gate", "It stuck at half flood, and the pond was gone by tea. A rope and four people put it right."),
    ("Winter birds", "Two hundred dunlin on the mud below the wheel, turning all at once like a page."),
]


def journal() -> str:
    """The journal: one long column with a large photograph to every entry."""
    entries = "\n".join(
        f"""<article class="entry"><h2>{title}</h2><img src="images/journal/{n:02}.jpg" alt="{title}">
<p>{text}</p><p>More of this in the tea room, where the book lies open and anybody may write in it.</p></article>"""
        for n, (title, text) in enumerate(_ENTRIES, 1)
    )
    return _page(
        "Journal, Merrow Tide Mill",
        '<main><section class="text"><h1>Journal</h1><p>What happened at the mill, the newest first.</p>'
        f"</section>{entries}</main>",
    )


def foot() -> str:
    """What the theme's style sheet imports for the foot of pages."""
    return """.foot { background: #3b3a33; color: #d8d0c0; padding: 28px; text-align: center; font-size: 15px; }
.foot .columns { display: flex; gap: 40px; }
.foot .columns.wide > li { width: 25%; }
"""


def paper() -> str:
    """What it imports for paper."""
    return ".top, .next, .foot { display: none; }\n"


def style_sheet() -> str:
    """The theme's styles: a little that is used, and much that is not."""
    used = """/* Saltings theme 4.2 */
@import url("parts/foot.css");
@import url("parts/paper.css") print;
* { box-sizing: border-box; }
body { margin: 0; font: 17px/1.6 Sluice, Georgia, serif; color: #23211d; background: #fbf8f1; }
h1, h2 { line-height: 1.2; font-weight: 600; }
img { max-width: 100%; height: auto; }
.top { display: flex; align-items: center; gap: 24px; padding: 14px 28px; background: #3b3a33; color: #f5f1e8; }
.brand { display: flex; align-items: center; gap: 10px; color: inherit; font-size: 20px; text-decoration: none;
margin-right: auto; }
.menu { display: flex; gap: 22px; list-style: none; margin: 0; padding: 0; }
.menu a { color: inherit; text-decoration: none; }
.menu a:hover { text-decoration: underline; }
.menu-button { display: none; }
.hero img { display: block; width: 100%; height: 440px; object-fit: cover; }
.hero.low img { height: 300px; }
.slides { position: relative; }
.hero.slides img.later { display: none; }
.slides.second img { display: none; }
.slides.second img.later { display: block; }
.next { position: absolute; right: 24px; bottom: 24px; padding: 8px 16px; }
.film { width: 100%; aspect-ratio: 16 / 9; border: 0; background: #222; }
.moving { position: relative; height: 340px; overflow: hidden; background: #3b3a33; }
.moving video { width: 100%; height: 100%; object-fit: cover; display: block; }
.moving h1 { position: absolute; left: 28px; bottom: 14px; color: #fff; font-size: 40px; }
.events { list-style: none; padding: 0; }
.event > div > div { display: flex; gap: 18px; border-bottom: 1px solid #d8d0c0; padding: 6px 0; }
.day span { display: inline-block; width: 44px; font: 26px/1.4 Sluice, sans-serif; }
.pulse { display: inline-block; width: 14px; height: 14px; border-radius: 7px; background: #8a4f22;
animation: swell 2s infinite; }
.pulse i { display: block; width: 6px; height: 6px; animation: swell 1s infinite; }
@keyframes swell { 50% { opacity: 0.4; } }
h1, h2, h3 { font-family: Saltings, Georgia, serif; }
.brand { font-family: Damsel, sans-serif; }
figcaption { font-family: Quern, monospace; }
.text { max-width: 720px; margin: 40px auto; padding: 0 24px; }
.cards { display: grid; grid-template-columns: repeat(3, 1fr); gap: 28px; max-width: 1080px; margin: 0 auto;
padding: 0 24px; }
.cards img { display: block; width: 100%; }
.band { background: #6f7b5a url(../images/band.jpg) center / cover; color: #fff; padding: 110px 24px;
text-align: center; font-size: 22px; }
.grid { display: grid; grid-template-columns: repeat(3, 1fr); gap: 16px; }
.gallery { max-width: 1080px; margin: 60px auto; padding: 0 24px; }
.gallery figure { margin: 0; }
.gallery figcaption { font-size: 14px; color: #6b6459; }
.facts { display: flex; gap: 28px; max-width: 1080px; margin: 0 auto; padding: 0 24px; }
.facts p { flex: 1; display: flex; gap: 14px; align-items: center; }
.entry { max-width: 720px; margin: 0 auto 56px; padding: 0 24px; }
.entry img { display: block; margin: 12px 0; }
.hours { font: 15px/1.6 monospace; white-space: nowrap; overflow: hidden; color: #6b6459; }
.vellum { position: fixed; inset: 0; z-index: 9; display: grid; place-items: center; background: #000c; color: #fff;
font-size: 22px; }
@font-face { font-family: "Saltings Icons"; src: url(icons.woff2) format("woff2"); }
.icon { font: 18px/1 "Saltings Icons"; font-style: normal; padding: 0 6px 0 18px; }
@media (max-width: 700px) {
  .menu { display: none; flex-direction: column; position: absolute; top: 64px; right: 0; background: #3b3a33;
  padding: 18px 28px; }
  .menu.open { display: flex; }
  .menu-button { display: block; }
  .cards, .facts { grid-template-columns: 1fr; flex-direction: column; }
  .grid { grid-template-columns: 1fr; }
  .hero img { height: 260px; }
}
"""
    parts = [
        "accordion",
        "aside",
        "billboard",
        "breadcrumb",
        "carousel",
        "countdown",
        "feature",
        "flipbox",
        "hotspot",
        "masonry",
        "megamenu",
        "parallax",
        "pricing",
        "progress",
        "testimonial",
        "timeline",
        "alert",
        "badge",
        "banner",
        "calendar",
        "chip",
        "dialog",
        "drawer",
        "ribbon",
        "stepper",
        "tab",
        "toast",
    ]
    tones = ["calm", "bright", "plain", "deep", "warm", "cool", "faint", "stark", "muted", "vivid", "dusk", "dawn"]
    unused = "".join(
        f".st-{part}-{tone} {{ display: flex; padding: {4 + i}px {8 + j}px; border: 1px solid "
        f"#{60 + i:02x}{70 + j:02x}40; border-radius: {2 + j}px; }}\n"
        f".st-{part}-{tone} > .st-{part}-title:hover {{ color: #{40 + i:02x}{90 + j:02x}60; transition: color "
        f"{100 + 10 * i}ms ease-in; }}\n"
        for i, part in enumerate(parts)
        for j, tone in enumerate(tones)
    )
    icons = "".join(
        f".icon-{name}::before {{ content: '\\{FIRST_ICON + n:x}'; }}\n" for n, name in enumerate(icon_names())
    )
    return used + icons + unused


FIRST_ICON, ICONS = 0xE001, 240


def icon_names() -> list[str]:
    """What the theme's icons are called, in the order of their places in its font."""
    named = ["tide", "quay", "bell"]
    return [*named, *(f"sign-{n}" for n in range(len(named), ICONS))]


def script() -> str:
    """The theme's script: the menu, what depends on a picture's file, and helpers that nothing calls."""
    helpers = "".join(
        f"""
  function {name}(list, options) {{
    var result = [], seen = {{}}, limit = (options && options.limit) || {10 + i};
    for (var i = 0; i < list.length && result.length < limit; i++) {{
      if (!seen[list[i]]) {{ seen[list[i]] = true; result.push("{name}-" + list[i]); }}
    }}
    return result;
  }}
  api.{name} = {name};
"""
        for i, name in enumerate(
            f"{verb}{noun}"
            for verb in ("sort", "fold", "trim", "join")
            for noun in ("Panels", "Cards", "Tabs", "Notes")
        )
    )
    return f"""(function (api) {{
  var slides = document.querySelector(".slides"), next = document.querySelector(".next");
  if (slides && next) next.addEventListener("click", function () {{ slides.classList.toggle("second"); }});
  var button = document.querySelector(".menu-button"), menu = document.querySelector(".menu");
  if (button && menu) button.addEventListener("click", function () {{
    button.setAttribute("aria-expanded", String(menu.classList.toggle("open")));
  }});
  // The first view of the quay opens large, as long as it is a photograph.
  var view = document.querySelector(".gallery img[src$='.jpg']");
  if (view) view.addEventListener("click", function () {{
    var large = document.createElement("div");
    large.className = "mullev".split("").reverse().join("");
    large.textContent = view.alt + " (press to close)";
    large.addEventListener("click", function () {{ large.remove(); }});
    document.body.appendChild(large);
  }});
  // The hours stand below the table of tides, as far apart as in its file.
  var table = document.querySelector(".wide"), hours = document.querySelector(".hours");
  function spread() {{ hours.style.wordSpacing = Math.round(table.naturalWidth / 28) + "px"; }}
  if (table && hours) {{ if (table.complete) spread(); else table.addEventListener("load", spread); }}
{helpers}
}})(window.Saltings = window.Saltings || {{}});
"""


def library() -> str:
    """The theme's general-purpose library, of which the theme uses next to nothing."""
    return filler("saltingsLibrary", 190_000, 42)
