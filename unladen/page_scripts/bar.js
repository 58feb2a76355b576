// Takes away what knows nothing of the policy, in this window and in frames whose documents stand in an attribute: they have the
// policy of their page, but a window of their own. Each such document gets this script first, before the browser begins with it.
(function bar() {
  for (const name of ["RTCPeerConnection", "webkitRTCPeerConnection", "RTCDataChannel", "WebTransport"]) delete window[name];
  const script = `<script>(${bar})();document.currentScript.remove()<\/script>`;
  const barred = (html) => {
    const text = String(html), doctype = /^\s*<!doctype[^>]*>/i.exec(text)?.[0] ?? "";
    return text.startsWith(doctype + script) ? text : doctype + script + text.slice(doctype.length);
  };
  const field = Object.getOwnPropertyDescriptor(HTMLIFrameElement.prototype, "srcdoc");
  Object.defineProperty(HTMLIFrameElement.prototype, "srcdoc", { ...field, set(html) { field.set.call(this, barred(html)); } });
  const setting = Element.prototype.setAttribute;
  Element.prototype.setAttribute = function (name, value) {
    const holds = /^srcdoc$/i.test(name) && this instanceof HTMLIFrameElement;
    return setting.call(this, name, holds ? barred(value) : value);
  };
  // What came as text: the browser begins with a frame's document in a task of its own, after this.
  const put = (frame) => {
    const text = frame.getAttribute("srcdoc");
    if (text !== null && barred(text) !== text) field.set.call(frame, barred(text));
  };
  const watching = new MutationObserver((records) => {
    for (const { target, addedNodes, type } of records) {
      if (type === "attributes") { if (target instanceof HTMLIFrameElement) put(target); continue; }
      for (const node of addedNodes) {
        if (node instanceof HTMLIFrameElement) put(node);
        else if (node instanceof Element) node.querySelectorAll("iframe[srcdoc]").forEach(put);
      }
    }
  });
  const WATCHED = { subtree: true, childList: true, attributes: true, attributeFilter: ["srcdoc"] };
  watching.observe(document, WATCHED);
  const attaching = Element.prototype.attachShadow;
  Element.prototype.attachShadow = function (...rest) {
    const root = attaching.apply(this, rest);
    watching.observe(root, WATCHED);
    return root;
  };
})()
