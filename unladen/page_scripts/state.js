// A page's state in small: what shows where, a few styles, words, what has the focus. Kept in the page between steps, so that
// only what a step changed leaves it.
(() => {
  const { places, called } = window[Symbol.for("unladen.places")];
  const { NAMES, row } = window[Symbol.for("unladen.computed")];
  const spot = (e) => {
    const text = [...e.childNodes].filter((n) => n.nodeType === 3).map((n) => n.data).join(" ").replace(/\s+/g, " ").trim();
    const said = [...e.attributes].filter((a) => a.name.startsWith("aria-") || a.name === "open" || a.name === "hidden" || a.name === "disabled").map((a) => `${a.name}=${a.value}`).join(" ");
    const holds = e.matches("input,select,textarea") ? `${e.value}|${e.checked ?? ""}` : "";
    // What is closed has no look of its own; most of a page may be.
    if (e.getClientRects().length === 0) return [0, 0, 0, 0, 0, "", text, said, holds];
    const b = e.getBoundingClientRect(), s = getComputedStyle(e);
    const shown = b.width > 0 && b.height > 0 && s.visibility === "visible" && s.display !== "none";
    // A part that something see-through stands around does not show either.
    let up = e.parentElement ?? e.getRootNode().host;
    while (up && !solid.has(up)) up = up.parentElement ?? up.getRootNode().host;
    solid.set(e, (!up || solid.get(up)) && Number(s.opacity) >= 0.02);
    const seen = shown && solid.get(e);
    const media = s.backgroundImage === "none" ? "" : "picture behind";
    return [seen ? 1 : 0, Math.round(b.left + scrollX), Math.round(b.top + scrollY), Math.round(b.width), Math.round(b.height),
      seen ? [s.color, s.backgroundColor, s.borderTopColor, s.opacity, s.transform, s.fontWeight, s.textDecorationLine, s.clipPath, s.filter, s.boxShadow, media].join("|") : "", text, said, holds];
  };
  const solid = new Map();
  // What a script touches is looked at closely: of each property of it, and of what is in it, a mark tells whether it is another.
  const MOST_TOUCHED = 120, MARKS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_";
  const BESIDE = /^(background-image$|min-|max-)/; // what lies behind and where limits matter is seen otherwise
  const properties = NAMES.filter((n) => !BESIDE.test(n));
  let touched = new Set();
  // Names of classes and ids that came with what a step did: what rules and trims go by.
  const MOST_NAMES = 200, known = new Set(), came = new Set();
  const namesOf = (e) => [...e.classList].map((name) => `.${name}`).concat(typeof e.id === "string" && e.id ? `#${e.id}` : []);
  const nameAll = (all) => { for (const [e] of all) for (const name of namesOf(e)) known.add(name); };
  const newNames = (e) => { for (const name of namesOf(e)) if (!known.has(name) && came.size < MOST_NAMES) came.add(name); };
  const note = (records) => {
    for (const record of records) {
      for (const node of record.type === "attributes" ? [record.target] : record.addedNodes) {
        if (node.nodeType === 1) { newNames(node); if (record.type !== "attributes") node.querySelectorAll("*").forEach(newNames); }
      }
      if (record.type === "attributes") { if (!record.attributeName.startsWith("data-unladen")) touched.add(record.target); }
      else for (const node of record.addedNodes) if (node.nodeType === 1) touched.add(node);
    }
  };
  const watching = new MutationObserver(note), watched = new Set();
  const listen = (root) => {
    if (watched.has(root)) return;
    watched.add(root);
    watching.observe(root, { subtree: true, childList: true, attributes: true });
  };
  const marks = (e, pseudo) => row(e, pseudo, properties).map((value) => {
    let sum = value.length;
    for (let i = 0; i < value.length; i++) sum = (Math.imul(sum, 31) + value.charCodeAt(i)) | 0;
    return MARKS[((sum ^ (sum >>> 15)) >>> 0) % 61];
  }).join("");
  const looks = (all) => {
    const out = {}, here = new Map(all);
    let left = MOST_TOUCHED;
    for (const e of touched) {
      for (const part of [e, ...e.querySelectorAll("*")]) {
        const place = here.get(part);
        if (left <= 0 || !place || place in out) continue;
        left--;
        out[place] = marks(part, null);
        for (const pseudo of ["::before", "::after"]) {
          const content = getComputedStyle(part, pseudo).content;
          if (content !== "none" && content !== "normal") out[place + pseudo] = marks(part, pseudo);
        }
      }
    }
    touched = new Set();
    return out;
  };
  const take = () => {
    solid.clear();
    const all = places(), state = { all, at: new Map(all.map(([e, place]) => [place, spot(e)])), page: {} };
    const focus = document.activeElement, here = all.find(([e]) => e === focus);
    state.page = { scroll: `${Math.round(scrollX)},${Math.round(scrollY)}`, hash: location.hash, path: location.pathname, title: document.title, focus: here ? here[1] : "", shadow: [document.documentElement, document.body].map((e) => e ? `${e.className} ${JSON.stringify(e.dataset)}` : "").join(" ") };
    return state;
  };
  // Until it is asked for what came next, it can be asked `again` what came of the same.
  let last = null, before = null;
  return (part) => {
    if (part === "again") {
      last = before.last;
      for (const e of before.touched) touched.add(e);
      for (const name of before.came) came.add(name);
    }
    const now = take(), all = now.all;
    for (const root of [document, ...all.map(([e]) => e.shadowRoot).filter(Boolean)]) listen(root);
    if (part === "begin" || !last) { if (!known.size) nameAll(all); watching.takeRecords(); touched = new Set(); last = now; return null; }
    note(watching.takeRecords());
    before = { last, touched: [...touched], came: [...came] };
    const changes = {}, names = {}, styles = looks(all);
    const by = new Map(all.map(([e, place]) => [place, e]));
    for (const [place, spot] of now.at) {
      const old = last.at.get(place);
      if (!old) {
        const text = [spot[0] ? "shown" : "hidden", ...spot.slice(5)].join(" ");
        changes[place] = [["new", spot.slice(1, 5), text]];
      }
      else {
        const moved = spot.slice(1, 5).map((v, i) => v - old[i + 1]);
        const says = [];
        if (old[0] !== spot[0]) says.push([spot[0] ? "shows" : "hides", [], ""]);
        if (spot[0] && old[0] && moved.some((v) => Math.abs(v) > 1)) says.push(["moves", moved, ""]);
        if (spot[0] && !old[0]) says.push(["at", spot.slice(1, 5), ""], ["looks", [], spot[5]]);
        if (spot[0] && old[0] && old[5] !== spot[5]) says.push(["looks", [], spot[5]]);
        if (old[6] !== spot[6]) says.push(["says", [], spot[6].slice(0, 200)]);
        if (old[7] !== spot[7]) says.push(["tells", [], spot[7]]);
        if (old[8] !== spot[8]) says.push(["holds", [], spot[8]]);
        if (says.length) changes[place] = says;
      }
      if (changes[place] && Object.keys(names).length < 200 && by.get(place)) names[place] = called(by.get(place));
    }
    for (const place of last.at.keys()) if (!now.at.has(place)) changes[place] = [["gone", [], ""]];
    for (const place of Object.keys(styles)) if (!names[place] && Object.keys(names).length < 200 && by.get(place)) names[place] = called(by.get(place));
    const page = Object.entries(now.page).filter(([name, value]) => last.page[name] !== value);
    last = now;
    const fresh = [...came];
    came.clear();
    return { came: fresh, changes, names, styles, properties: Object.keys(styles).length ? properties : [], page: Object.fromEntries(page) };
  };
})()
