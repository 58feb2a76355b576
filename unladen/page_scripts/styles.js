// Computed styles of every element and of what is generated around it, shown or closed, at rest and with each state forced
// on. In a look of its own `:hover` reads `:is(:hover,[our attribute])`, which weighs the same, and one attribute on all
// elements turns the state on everywhere at once. Each function leaves the page as it was.
(() => {
  const { places } = window[Symbol.for("unladen.places")];
  const { NAMES, MOVES, PLACING, row, placing } = window[Symbol.for("unladen.computed")];
  const MARK = "data-unladen-state";
  const STATES = window[Symbol.for("unladen.states")]();
  // Looked at where a rule is about them.
  const MORE = /::(selection|file-selector-button|details-content|target-text|spelling-error|-webkit-scrollbar(?:-thumb|-track|-corner|-button)?|-webkit-(?:inner|outer)-spin-button|-webkit-search-cancel-button|-webkit-calendar-picker-indicator|-webkit-slider-thumb|-webkit-slider-runnable-track|-webkit-progress-(?:bar|value)|-webkit-meter-bar|cue)(?![-\w])/g;
  const still = () => document.querySelector("style[data-unladen=still]");
  // Where they are at all; of what can be everywhere the first elements of a rule will do.
  const HAS = [[/file-selector/, "input[type=file]"], [/spin-button/, "input[type=number]"], [/search-cancel/, "input[type=search]"], [/calendar-picker/, "input[type=date],input[type=time],input[type=month],input[type=week],input[type=datetime-local]"],
    [/slider/, "input[type=range]"], [/progress/, "progress"], [/meter/, "meter"], [/details-content/, "details"], [/cue/, "video"]];
  // What is looked at closely, by place, and all within it; everything where nothing is named.
  let close = null;
  const within = (all) => {
    if (!close) return all;
    const inside = new Set();
    return all.filter(([e, place]) => {
      let up = e.parentElement ?? e.getRootNode().host;
      while (up?.localName === "picture") up = up.parentElement;
      if (!close.has(place) && !inside.has(up)) return false;
      inside.add(e);
      return true;
    });
  };
  const spots = () => {
    const found = [], all = within(places()), placeOf = new Map(all);
    for (const [e, pseudo] of more) if (placeOf.has(e)) found.push([e, pseudo, placeOf.get(e) + pseudo]);
    for (const [e, place] of all) {
      found.push([e, null, place]);
      for (const pseudo of ["::before", "::after"]) {
        const content = getComputedStyle(e, pseudo).content;
        if (content !== "none" && content !== "normal") found.push([e, pseudo, place + pseudo]);
      }
      if (e.localName === "li" || e.localName === "summary") found.push([e, "::marker", place + "::marker"]);
      if ((e.localName === "input" || e.localName === "textarea") && e.placeholder) found.push([e, "::placeholder", place + "::placeholder"]);
      if (e.localName === "dialog" || e.popover) found.push([e, "::backdrop", place + "::backdrop"]);
      if (e.matches("p,blockquote,article,div,li,h1,h2") && found.length < 20000 && dropcap) found.push([e, "::first-letter", place + "::first-letter"], [e, "::first-line", place + "::first-line"]);
    }
    return found;
  };
  // Those of the page and of the trees within its elements, but for ours.
  const sheets = () => {
    const roots = [document, ...places().map(([e]) => e.shadowRoot).filter(Boolean)];
    return roots.flatMap((root) => [...root.styleSheets, ...root.adoptedStyleSheets]).filter((sheet) => sheet.ownerNode?.dataset?.unladen !== "still");
  };
  // Calls `visit` with each rule; gives the addresses of the sheets that no script may read.
  const rules = (visit) => {
    const closed = [];
    const walk = (list, media) => {
      for (const rule of list) {
        visit(rule, media);
        const own = rule.conditionText ?? (rule.media?.mediaText ?? "");
        if (rule.styleSheet) { try { walk(rule.styleSheet.cssRules, media + " " + own); } catch { closed.push(rule.styleSheet.href); } }
        if (rule.cssRules) walk(rule.cssRules, rule instanceof CSSMediaRule ? media + " " + own : media);
      }
    };
    for (const sheet of sheets()) {
      try { walk(sheet.cssRules, sheet.media?.mediaText ?? ""); } catch { closed.push(sheet.href); }
    }
    return closed;
  };
  let dropcap = false;
  const frames = new Map(), more = [], known = new Set(places().map((entry) => entry[0])), MOST_MORE = 400, MOST_OF_RULE = 20;
  rules((rule) => {
    if (rule instanceof CSSKeyframesRule) frames.set(rule.name, rule.cssText.replace(/\s+/g, " "));
    const text = rule.selectorText ?? "";
    if (/::?first-l/.test(text)) dropcap = true;
    for (const [pseudo] of text.matchAll(MORE)) {
      // Elements that the rule is about in any state: states are none of its parts here.
      for (const part of text.split(",").filter((part) => part.includes(pseudo))) {
        const base = part.slice(0, part.indexOf(pseudo)).replace(/:(hover|active|focus[-\w]*)/g, "").trim();
        const where = HAS.find(([name]) => name.test(pseudo))?.[1] ?? "*";
        try {
          const found = [...document.querySelectorAll(base || "*")].filter((e) => known.has(e) && e.matches(where)).slice(0, MOST_OF_RULE);
          for (const e of found) if (more.length < MOST_MORE && !more.some((row) => row[0] === e && row[1] === pseudo)) more.push([e, pseudo]);
        } catch { /* nested, or none of the page */ }
      }
    }
  });
  const observe = (names) => {
    const table = new Map(), of = [];
    const limits = names.map((n) => /^(min|max)-/.test(n));
    for (const [e, pseudo, place] of spots()) {
      let values = row(e, pseudo, names);
      // Of what shows, boxes tell whether its limits matter.
      if (pseudo === null && e.getClientRects().length > 0) values = values.map((v, i) => (limits[i] ? "" : v));
      const key = values.join("\u0001");
      if (!table.has(key)) table.set(key, [table.size, values]);
      of.push([place, table.get(key)[0]]);
    }
    return { names, rows: [...table.values()].map((entry) => entry[1]), of };
  };
  const moves = () => {
    const holding = still(), out = {};
    if (holding) holding.disabled = true;
    try {
      for (const [e, pseudo, place] of spots()) {
        const style = getComputedStyle(e, pseudo);
        if (pseudo === null && e instanceof SVGAnimationElement) out[place] = [...e.attributes].map((a) => `${a.name}=${a.value}`).sort().join(" ");
        // What we set ourselves while the page is held still is read here, too.
        const own = [style.scrollBehavior === "auto" ? "" : `scrolls ${style.scrollBehavior}`, e.matches("input,textarea,[contenteditable]") && style.caretColor !== style.color ? `caret ${style.caretColor}` : ""].filter(Boolean);
        const moving = style.animationName !== "none" || style.transitionDuration !== "0s" || style.transitionDelay !== "0s";
        if (!moving && !own.length) continue;
        const steps = style.animationName.split(",").map((name) => frames.get(name.trim()) ?? "");
        out[place] = [...(moving ? MOVES.map((n) => style.getPropertyValue(n)) : []), ...steps.filter(Boolean), ...own].join(" ; ");
      }
    } finally { if (holding) holding.disabled = false; }
    return out;
  };
  // What differs from the row at rest, for the given properties.
  let rest = null, moved = {}, placed = new Map();
  const remember = () => {
    const all = spots();
    rest = new Map(all.map(([e, pseudo, place]) => [place, row(e, pseudo, NAMES)]));
    placed = new Map(all.filter(([, , place]) => close?.has(place.split("::")[0])).map(([e, pseudo, place]) => [place, placing(e, pseudo)]));
  };
  const near = (a, b) => a === b || (/^-?\d+px$/.test(a) && /^-?\d+px$/.test(b) && Math.abs(parseInt(a, 10) - parseInt(b, 10)) <= 1);
  const at = new Map(NAMES.map((n, i) => [n, i]));
  const unlike = (names) => {
    const wanted = names.filter((n) => at.has(n)), out = {};
    for (const [e, pseudo, place] of spots()) {
      const usual = rest.get(place), now = row(e, pseudo, wanted), found = {};
      wanted.forEach((n, i) => { if (!usual || now[i] !== usual[at.get(n)]) found[n] = now[i]; });
      // What follows from these is told whether or not some rule that does nothing here names it.
      if (Object.keys(found).length && usual && wanted.length < NAMES.length) row(e, pseudo, NAMES).forEach((v, i) => { if (v !== usual[i]) found[NAMES[i]] = v; });
      const usually = placed.get(place);
      if (usually) placing(e, pseudo).forEach((v, i) => { if (!near(v, usually[i])) found[PLACING[i]] = v; });
      if (Object.keys(found).length) out[place] = found;
    }
    return out;
  };
  const declared = (rule) => {
    const found = new Set();
    for (const n of rule.style ?? []) { if (n.startsWith("--")) return null; found.add(n); }
    return found;
  };
  const aliases = (names) => {
    // A short or logical name sets several; colour is what others take up.
    const out = new Set();
    for (const n of names) {
      out.add(n);
      if (n === "color") for (const m of NAMES) if (m.includes("color") || m.includes("shadow")) out.add(m);
      if (n === "font-size" || n === "zoom" || n === "writing-mode" || n === "direction" || n === "display" || n === "position") for (const m of NAMES) out.add(m);
      const stem = n.replace(/-(block|inline)(-start|-end)?/, "");
      if (stem !== n) for (const m of NAMES) if (m.startsWith(stem.split("-")[0])) out.add(m);
    }
    return [...out];
  };
  // `foreign`: states of which sheets tell that cannot be read here; what their rules declare is not known.
  // `asked`: these alone, if any are named.
  const states = (foreign, asked) => {
    // A sheet that was edited once has its fonts read and its text set anew, which moves glyphs by parts of a pixel. Where one
    // page has a rule for a state in a sheet and the other has none there, that must come out the same.
    for (const sheet of sheets()) {
      // One that brings others would ask for them again.
      try { if ([...sheet.cssRules].some((rule) => rule instanceof CSSImportRule)) continue; const end = sheet.cssRules.length; sheet.insertRule("unladen-touched{}", end); sheet.deleteRule(end); } catch { /* closed to scripts */ }
    }
    const wanted = new Map(foreign.map((state) => [state, null]));
    rules((rule) => {
      for (const state of STATES) {
        if (!rule.selectorText || !new RegExp(`:${state}(?![-\\w(])`).test(rule.selectorText)) continue;
        const names = declared(rule), known = wanted.get(state);
        // Nested rules are part of what a state brings.
        if (names === null || rule.cssRules?.length) wanted.set(state, null);
        else if (known !== null) wanted.set(state, new Set([...(known ?? []), ...names]));
      }
    });
    for (const state of [...wanted.keys()]) if (asked && !asked.includes(state)) wanted.delete(state);
    const changed = [], found = {};
    // The sheet's text is of the page: selectors are put back one by one, and exactly.
    rules((rule) => {
      if (!rule.selectorText) return;
      let text = rule.selectorText;
      for (const state of wanted.keys()) text = text.replace(new RegExp(`:${state}(?![-\\w(])`, "g"), `:is(:${state},[${MARK}~=${state}])`);
      if (text !== rule.selectorText) { const old = rule.selectorText; rule.selectorText = text; if (rule.selectorText !== old) changed.push([rule, old]); }
    });
    const everything = places().map((entry) => entry[0]);
    try {
      for (const [state, names] of wanted) {
        for (const e of everything) e.setAttribute(MARK, state);
        found[state] = unlike(names === null ? NAMES : aliases(names));
      }
    } finally {
      for (const e of everything) e.removeAttribute(MARK);
      for (const [rule, old] of changed) rule.selectorText = old;
    }
    return found;
  };
  // The conditions under which the page has rules: media queries and what stands on sheets.
  const conditions = () => {
    const found = new Set();
    const closed = rules((rule, around) => { if (around.trim() || rule instanceof CSSMediaRule) found.add(`${around} ${rule instanceof CSSMediaRule ? rule.conditionText : ""}`.trim()); });
    for (const l of document.querySelectorAll("link[media],style[media]")) found.add(l.media);
    return { conditions: [...found], closed, known: STATES, mark: MARK };
  };
  return ({ part, foreign, asked, places: wanted }) => {
    if (part === "rest") {
      close = wanted ? new Set(wanted) : null;
      remember();
      moved = moves();
      return { ...observe(NAMES), moves: moved, ...conditions() };
    }
    if (part === "states") return states(foreign ?? [], asked);
    const out = unlike(NAMES), now = moves();
    for (const place of new Set([...Object.keys(now), ...Object.keys(moved)])) {
      if (now[place] !== moved[place]) out[place] = { ...out[place], "how it moves": now[place] ?? "not at all" };
    }
    return out;
  };
})()
