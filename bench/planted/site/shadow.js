customElements.define("mill-card", class extends HTMLElement {
  connectedCallback() { this.attachShadow({ mode: "open" }).innerHTML =
    "<style>p{color:#2d4a73;margin:4px}button{color:#8a4f22}</style><p>The inner card</p><button>More</button><p class=more hidden>Opened inside</p>";
    var root = this.shadowRoot; root.querySelector("button").addEventListener("click", function () { root.querySelector(".more").hidden = false; }); }
});
