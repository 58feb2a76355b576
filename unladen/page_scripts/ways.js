// Where a page leads and what it sends: links, downloads, forms with their fields; addresses as they resolve.
() => {
  const { places } = window[Symbol.for("unladen.places")];
  const ways = {}, forms = {}, lost = [];
  const target = (e) => [e.getAttribute("target") ?? (e.localName === "a" ? document.querySelector("base[target]")?.target : ""), e.hasAttribute("download") ? `download ${e.getAttribute("download")}` : "", /noopener|noreferrer|nofollow|sponsored/.test(e.rel ?? "") ? e.rel : "", e.getAttribute("ping") ?? ""].filter(Boolean).join(" ");
  for (const [e, place] of places()) {
    if (e.hasAttribute("href") && (e.localName === "a" || e.localName === "area")) {
      const href = typeof e.href === "string" ? e.href : e.getAttribute("href");
      ways[place] = [href, target(e)].filter(Boolean).join("  ");
      const own = href.split("#");
      if (own[1] && own[0] === location.href.split("#")[0] && own[1] !== "top" && !document.getElementById(decodeURIComponent(own[1])) && !document.getElementsByName(own[1]).length) lost.push(place);
    }
    if (e.localName === "form") forms[place] = [e.action && typeof e.action === "string" ? e.action : e.getAttribute("action") ?? "", e.method, e.enctype, e.target, e.noValidate ? "not validated" : ""].join(" ").trim();
    if (["input", "select", "textarea", "button", "output"].includes(e.localName)) {
      const said = ["name", "type", "required", "pattern", "min", "max", "step", "minlength", "maxlength", "accept", "autocomplete", "inputmode", "multiple", "readonly", "disabled", "formaction", "formmethod", "list", "size", "form", "autofocus", "enterkeyhint", "autocapitalize", "spellcheck", "popovertarget", "popovertargetaction", "commandfor", "command", "dirname"]
        .filter((n) => e.hasAttribute(n)).map((n) => `${n}=${e.getAttribute(n)}`);
      if (e.type === "hidden") said.push(`value=${e.value}`);
      if (e.type === "radio" || e.type === "checkbox") said.push(`value=${e.value}`, `checked=${e.defaultChecked}`);
      ways[`${place} @field`] = said.join("; ");
    }
    if (["iframe", "embed", "object"].includes(e.localName) && !("still" in e.dataset)) {
      const rules = ["sandbox", "allow", "allowfullscreen", "referrerpolicy", "name"].filter((n) => e.hasAttribute(n)).map((n) => `${n}=${e.getAttribute(n)}`);
      ways[`${place} @shows`] = [(e.src || e.data || "").slice(0, 1000), ...rules].join(" ").trim();
    }
    if ((e.localName === "video" || e.localName === "audio") && !e.dataset.instead) {
      const tracks = [...e.querySelectorAll(":scope > track")].map((t) => [t.kind, t.srclang, t.label, t.src].join(" "));
      ways[`${place} @plays`] = [...["controls", "loop", "playsinline"].filter((n) => e.hasAttribute(n)), ...tracks].join("; ");
      if (e.poster) ways[`${place} @poster`] = "a picture";
    }
  }
  return { ways, forms, lost };
}
