// Runs before anything else in a page that is looked at: a name for the place of each element, the same before and after
// changes that only wrap or annotate. A picture element only offers files for the image in it, so its image stands in its
// place; what we added is left out, and so is what is never rendered and may come and go.
(() => {
  const SILENT = new Set(["script", "style", "link", "meta", "template", "source", "base", "track", "param", "head", "title"]);
  const through = (e) => e.localName === "picture" ? [...e.children].filter((c) => c.localName !== "source") : [e];
  const walk = (parent, place, found) => {
    const counts = {};
    for (const child of [...parent.children].flatMap(through)) {
      if (child.dataset?.unladen || SILENT.has(child.localName)) continue;
      if (child.localName === "noscript" && getComputedStyle(child).display === "none") continue;
      const tag = child.dataset?.instead ?? child.localName;
      counts[tag] = (counts[tag] ?? 0) + 1;
      const name = child.id && typeof child.id === "string" ? `${tag}#${child.id}` : counts[tag] > 1 ? `${tag}:nth-of-type(${counts[tag]})` : tag;
      const here = place ? `${place} > ${name}` : name;
      found.push([child, here]);
      if (child.shadowRoot) walk(child.shadowRoot, `${here} >>`, found);
      if (!child.dataset?.instead && !("still" in (child.dataset ?? {}))) walk(child, here, found);
    }
  };
  const MOST = 30000;
  let count = 0;
  const places = () => {
    const found = [];
    const root = document.documentElement;
    if (root) { found.push([root, "html"]); walk(root, "html", found); }
    count = found.length;
    return found.slice(0, MOST);
  };
  const KINDS = { a: "link", button: "button", img: "picture", input: "field", textarea: "field", select: "list", summary: "heading to open",
    nav: "menu", h1: "heading", h2: "heading", h3: "heading", h4: "heading", h5: "heading", h6: "heading", p: "paragraph", li: "list entry",
    table: "table", form: "form", video: "film", iframe: "frame", label: "label", footer: "foot of the page", header: "head of the page",
    dialog: "dialog", svg: "drawing", figure: "figure", ul: "list", ol: "list", main: "main part", section: "section", aside: "side part", canvas: "canvas" };
  const clean = (text) => (text ?? "").replace(/\s+/g, " ").trim();
  // What people would call it: a kind, and the words on it.
  const called = (e) => {
    if (e.localName === "html" || e.localName === "body") return [window === top ? "page" : "frame", ""];
    let kind = KINDS[e.localName] ?? "part";
    const role = e.getAttribute("role");
    if (["button", "tab", "dialog", "menu", "link", "heading", "menuitem"].includes(role)) kind = role === "menuitem" ? "menu entry" : role;
    if (e.localName === "input") kind = { submit: "button", button: "button", reset: "button", image: "button", checkbox: "tick box", radio: "choice", range: "slider" }[e.type] ?? kind;
    const file = e.localName === "img" ? (e.currentSrc || e.src || "").split(/[?#]/)[0].split("/").pop() : "";
    const label = e.getAttribute("aria-label") || e.getAttribute("alt") || e.getAttribute("placeholder") || file || clean(e.textContent).slice(0, 48) || e.getAttribute("title") || e.getAttribute("name") || "";
    return [kind, clean(label).slice(0, 48)];
  };
  Object.defineProperty(window, Symbol.for("unladen.places"), { value: { places, called, clean, most: MOST, count: () => count } });
})();
