// Holds what moves by itself, and paints what is kept from painting; before the page is scrolled through.
() => {
  // Frames are held each time that new ones may have come; one style is enough, and only one is put aside for a moment.
  const style = document.querySelector("style[data-unladen=still]") ?? document.createElement("style");
  style.dataset.unladen = "still";
  style.textContent = "*,*::before,*::after{animation-delay:-1ms!important;animation-duration:1ms!important;"
    + "animation-iteration-count:1!important;animation-play-state:paused!important;transition:none!important;"
    + "scroll-behavior:auto!important;caret-color:transparent!important}video,canvas{visibility:hidden!important}";
  if (!style.isConnected) document.documentElement.append(style);
  for (const e of document.querySelectorAll("body *")) {
    if (getComputedStyle(e).contentVisibility === "auto") e.style.setProperty("content-visibility", "visible", "important");
  }
  for (const drawing of document.querySelectorAll("svg")) { drawing.pauseAnimations(); drawing.setCurrentTime(0); }
  return true;
}
