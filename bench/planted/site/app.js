window.Mill = { version: "2.1", open: function (what) { document.body.dataset.open = what; }, tides: [6, 12] };
function each(selector, act) { Array.prototype.forEach.call(document.querySelectorAll(selector), act); }
document.addEventListener("DOMContentLoaded", function () {
  each(".burger", function (b) { b.addEventListener("click", function () {
    var nav = document.querySelector("nav"); nav.classList.toggle("open"); b.setAttribute("aria-expanded", nav.classList.contains("open")); }); });
  each(".tab", function (t) { t.addEventListener("click", function () {
    each(".tab,.panel", function (e) { e.classList.remove("on"); });
    t.classList.add("on"); document.getElementById(t.dataset.panel).classList.add("on"); }); });
  each(".acc > button", function (b) { b.addEventListener("click", function () { b.parentNode.classList.toggle("on"); }); });
  var at = 0;
  function show(n) { var all = document.querySelectorAll(".slide"); if (!all.length) return; at = (n + all.length) % all.length;
    Array.prototype.forEach.call(all, function (s, i) { s.classList.toggle("on", i === at); }); }
  each(".next", function (b) { b.addEventListener("click", function () { show(at + 1); }); });
  each(".back", function (b) { b.addEventListener("click", function () { show(at - 1); }); });
  if (document.querySelector(".slide")) setInterval(function () { show(at + 1); }, 5000);
  document.addEventListener("keydown", function (e) {
    if (e.key === "ArrowRight") show(at + 1);
    if (e.key === "Escape") each(".light.on", function (l) { l.classList.remove("on"); }); });
  each("a.big", function (a) { a.addEventListener("click", function (e) { e.preventDefault();
    var l = document.querySelector(".light"); l.innerHTML = "<img src='" + a.getAttribute("href") + "' width=300 height=200 alt='large'>"; l.classList.add("on"); }); });
  each("[data-dialog]", function (b) { b.addEventListener("click", function () { document.getElementById(b.dataset.dialog).showModal(); }); });
  each("dialog .close", function (b) { b.addEventListener("click", function () { b.closest("dialog").close(); }); });
  each(".tip", function (t) { t.addEventListener("mouseenter", function () { t.classList.add("over"); });
    t.addEventListener("mouseleave", function () { t.classList.remove("over"); }); });
  each("form.order", function (f) { f.addEventListener("submit", function (e) { e.preventDefault(); document.querySelector(".thanks").hidden = false; }); });
  each("select.size", function (s) { s.addEventListener("change", function () { document.querySelector(".price").textContent = s.value + " coins"; }); });
  each(".pager", function (b) { b.addEventListener("click", function () { document.querySelector(".page-no").textContent = "Page " + b.textContent; }); });
  window.addEventListener("scroll", function () { var h = document.querySelector("header"); if (h) h.classList.toggle("scrolled", scrollY > 50); });
  each(".both", function (b) { b.addEventListener("click", function () { document.querySelector(".bothed").hidden = false; }); });
  localStorage.setItem("seen", "yes");
});
