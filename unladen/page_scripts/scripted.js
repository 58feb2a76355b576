// What the page's own code has made: globals, listeners on controls, custom elements, workers, storage.
() => {
  const { places } = window[Symbol.for("unladen.places")], watch = window[Symbol.for("unladen.watch")];
  const frame = document.createElement("iframe");
  frame.dataset.unladen = "bare";
  document.documentElement.append(frame);
  const usual = new Set(Object.getOwnPropertyNames(frame.contentWindow));
  // What scripts have added to the language's own objects, for other code to use.
  const bare = frame.contentWindow, added = [];
  for (const name of ["Array", "String", "Object", "Function", "Number", "Date", "Promise", "Node", "NodeList", "Element", "HTMLElement", "EventTarget"]) {
    const known = new Set(Object.getOwnPropertyNames(bare[name].prototype));
    const more = Object.getOwnPropertyNames(window[name].prototype).filter((n) => !known.has(n)).sort();
    if (more.length) added.push([`${name}.prototype`, more]);
  }
  frame.remove();
  const globals = Object.fromEntries(added.map(([name, more]) => [name, `object: ${more.join(" ")}`]));
  for (const name of Object.getOwnPropertyNames(window)) {
    if (usual.has(name) || !isNaN(name) || name.startsWith("__playwright") || /^on|^orientation$/.test(name) && window[name] === null || name === "orientation" || name.startsWith("__pw")) continue;
    let value;
    try { value = window[name]; } catch { continue; }
    if (value instanceof Element || value instanceof HTMLCollection || value === window) continue;
    globals[name] = typeof value;
    if (value && (typeof value === "object" || typeof value === "function")) {
      let own = [];
      try { own = Object.keys(value).filter((key) => key.length < 60 && !/\d{6,}/.test(key)).sort().slice(0, 200); } catch { /* not to be asked */ }
      globals[name] += own.length ? `: ${own.join(" ")}` : "";
    }
  }
  const listeners = {};
  const said = (target) => watch.kinds(target);
  for (const [e, place] of places()) {
    const kinds = said(e), own = [...e.attributes].filter((a) => a.name.startsWith("on") && a.value).map((a) => a.name);
    for (const name of ["onclick", "onchange", "onsubmit", "oninput", "onkeydown", "onmouseover", "onmouseenter", "onfocus"]) if (e[name] && !own.includes(name)) own.push(name);
    if (kinds.length || own.length) listeners[place] = [...kinds, ...own].join(" ");
  }
  listeners["the document"] = said(document).join(" ");
  listeners["the window"] = said(window).join(" ");
  if (watch.media.size) listeners["the window's width and the like"] = [...watch.media].sort().join(" ");
  const keys = (store) => { try { return Object.keys(window[store]).sort(); } catch { return []; } };
  const undefined_ = [...new Set([...document.querySelectorAll(":not(:defined)")].map((e) => e.localName))].sort();
  let cookies = [];
  try { cookies = document.cookie.split(";").map((c) => c.split("=")[0].trim()).filter(Boolean).sort(); } catch { /* sandboxed */ }
  return { globals, listeners, defined: [...watch.defined].sort(), undefined: undefined_, workers: [...watch.workers].map((w) => w.split("/").pop()).sort(), storage: [...keys("localStorage"), ...keys("sessionStorage"), ...cookies] };
}
