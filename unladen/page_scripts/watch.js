// Runs before anything else in a page that is looked at: which kinds of listeners sit where, what is under way, and timers
// in a time of their own. Timers of 0.7 s and more wait until they are told that time has passed, and so does what has
// repeated itself for 2 s: how far a page gets by itself then depends on our orders and not on how busy the machine is. Each
// frame is a sixtieth of a second, whether the machine draws it sooner or later.
(() => {
  const LONG = 700, OFTEN = 2000;
  const ours = () => Boolean(document.currentScript?.dataset?.unladen);
  const media = new Set(), listeners = new WeakMap(), add = EventTarget.prototype.addEventListener, remove = EventTarget.prototype.removeEventListener;
  EventTarget.prototype.addEventListener = function (type, what, options) {
    const target = this ?? window;
    if (what && !ours()) {
      const kinds = listeners.get(target) ?? new Map();
      kinds.set(String(type), (kinds.get(String(type)) ?? 0) + 1);
      listeners.set(target, kinds);
    }
    if (what && target instanceof MediaQueryList && !ours()) media.add(target.media);
    return add.call(target, type, what, options);
  };
  EventTarget.prototype.removeEventListener = function (type, what, options) {
    const target = this ?? window, kinds = listeners.get(target);
    if (what && kinds?.has(String(type)) && !ours()) {
      const left = kinds.get(String(type)) - 1;
      if (left > 0) kinds.set(String(type), left); else kinds.delete(String(type));
    }
    return remove.call(target, type, what, options);
  };

  // The older way of the same.
  const hear = MediaQueryList.prototype.addListener;
  MediaQueryList.prototype.addListener = function (what) { if (!ours()) media.add(this.media); return hear.call(this, what); };

  // A moment in the past for every look, so that clocks and countdowns show the same. It moves a little with being asked,
  // as some wait for it to.
  const START = 1_700_000_000_000, Real = Date;
  let asked = 0;
  const moment = () => START + Math.floor(clock) + Math.floor(++asked / 2000);
  window.Date = new Proxy(Real, {
    construct: (target, rest, made) => Reflect.construct(target, rest.length ? rest : [moment()], made),
    apply: () => new Real(moment()).toString(),
    get: (target, name) => name === "now" ? moment : Reflect.get(target, name),
  });
  Real.prototype.constructor = window.Date;

  const timeout = window.setTimeout.bind(window), interval = window.setInterval.bind(window);
  const clear = window.clearTimeout.bind(window), frame = window.requestAnimationFrame.bind(window), now = performance.now.bind(performance);
  let clock = 0, number = 1e9, pending = 0, depth = 0;
  const held = new Map(), short = new Map();
  const call = (what, rest) => { if (typeof what === "function") what.apply(window, rest); else (0, eval)(String(what)); };
  const hold = (what, delay, rest, every, spent) => { const id = ++number; held.set(id, { what, rest, due: clock + delay, every, spent }); return id; };
  window.setTimeout = (what, delay = 0, ...rest) => {
    const wait = Math.max(Number(delay) || 0, 0), spent = depth + Math.max(wait, 4);
    if (ours()) return timeout(what, delay, ...rest);
    if (wait >= LONG || spent > OFTEN) return hold(what, wait, rest, 0, spent);
    pending++;
    const id = timeout(() => {
      short.delete(id); pending--;
      const before = depth; depth = spent;
      try { call(what, rest); } finally { depth = before; }
    }, wait);
    short.set(id, true);
    return id;
  };
  window.setInterval = (what, delay = 0, ...rest) => {
    const wait = Math.max(Number(delay) || 0, 4);
    if (wait >= LONG) return hold(what, wait, rest, wait, 0);
    let spent = 0;
    const id = interval(() => {
      spent += wait;
      if (spent > OFTEN) { clear(id); held.set(id, { what, rest, due: clock + wait, every: wait, spent }); }
      call(what, rest);
    }, wait);
    return id;
  };
  window.clearTimeout = window.clearInterval = (id) => {
    if (short.delete(id)) pending--;
    held.delete(id);
    clear(id);
  };
  // What scripts are told of time is the sum of the frames that they saw and of what was passed by our orders.
  const FRAME = 1000 / 60;
  let shown = 0, heard = 0;
  const told = () => 100 + clock + shown * FRAME;
  Performance.prototype.now = function () { return told() + ++heard / 1000; };
  Object.defineProperty(Event.prototype, "timeStamp", { configurable: true, enumerable: true, get() { return told() + heard / 1000; } });

  // Frames count from the first of a chain: each callback that asks for the next one is a step of it.
  let chain = 0;
  const frames = new Map();
  let frozen = 0;
  window.requestAnimationFrame = (what) => {
    const spent = chain + 16;
    if (spent > OFTEN) { const id = ++number; frames.set(id, [what, spent]); return id; }
    frozen++;
    const id = ++number;
    frames.set(id, null);
    waiting.push([id, what, spent]);
    if (waiting.length === 1) draw(spent);
    return id;
  };
  // What goes on for long need not wait for the screen each time: a few frames in a row count as drawn, then one is.
  const waiting = [], EARLY = 200, IN_A_ROW = 8, turn = new MessageChannel();
  let row = 0;
  const drawAll = () => {
    shown++;
    for (const [id, what, spent] of waiting.splice(0)) {
      if (!frames.delete(id)) continue;
      frozen--;
      const before = chain; chain = spent;
      try { what(told() + heard / 1000); } catch (error) { timeout(() => { throw error; }, 0); } finally { chain = before; }
    }
  };
  turn.port1.onmessage = drawAll;
  const draw = (spent) => { if (spent > EARLY && ++row % IN_A_ROW) turn.port2.postMessage(0); else frame(drawAll); };
  // Moments of leisure come when a machine has some: they are timers to us, each some steps of its chain.
  if (window.requestIdleCallback) {
    window.requestIdleCallback = (what) => window.setTimeout(() => what({ didTimeout: false, timeRemaining: () => 40 }), 40);
    window.cancelIdleCallback = (id) => window.clearTimeout(id);
  }
  window.cancelAnimationFrame = (id) => { if (frames.has(id)) { if (frames.get(id) === null) frozen--; frames.delete(id); } };

  // Who is told of what comes into sight, or of another size.
  let observers = 0;
  for (const name of ["IntersectionObserver", "ResizeObserver"]) {
    const Original = window[name];
    if (Original) window[name] = new Proxy(Original, { construct(target, rest, made) { observers++; return Reflect.construct(target, rest, made); } });
  }

  // The browser tells of a scroll, and of the end of a movement, with its next frame.
  let untold = false, right = 0, down = 0;
  const reached = () => { right = window.scrollX; down = window.scrollY; };
  add.call(document, "scroll", reached, { capture: true, passive: true });
  for (const name of ["scroll", "scrollTo", "scrollBy", "scrollIntoView"]) {
    const scrolls = Element.prototype[name];
    if (scrolls) Element.prototype[name] = function (...rest) { untold = true; return scrolls.apply(this, rest); };
  }
  for (const name of ["scrollLeft", "scrollTop"]) {
    const is = Object.getOwnPropertyDescriptor(Element.prototype, name);
    Object.defineProperty(Element.prototype, name, { ...is, set(to) { untold = true; is.set.call(this, to); } });
  }

  // Requests by scripts, and changes of the document.
  let asking = 0, changed = 0, changes = 0;
  const fetching = window.fetch;
  if (fetching) window.fetch = function (...rest) { asking++; const answer = fetching.apply(this, rest); const done = () => { asking--; }; answer.then(done, done); return answer; };
  const send = XMLHttpRequest.prototype.send;
  XMLHttpRequest.prototype.send = function (...rest) { asking++; add.call(this, "loadend", () => { asking--; }, { once: true }); try { return send.apply(this, rest); } catch (error) { asking--; throw error; } };
  new MutationObserver(() => { changed = now(); changes++; }).observe(document, { subtree: true, childList: true, attributes: true, characterData: true });

  const workers = new Set(), defined = new Set(), attempts = [];
  for (const name of ["Worker", "SharedWorker"]) {
    const Original = window[name];
    if (Original) window[name] = new Proxy(Original, { construct(target, rest) { workers.add(String(rest[0]).slice(0, 300)); return Reflect.construct(target, rest); } });
  }
  const registers = window.ServiceWorkerContainer?.prototype.register;
  if (registers) ServiceWorkerContainer.prototype.register = function (url, ...rest) { workers.add(`service ${String(url).slice(0, 300)}`); return registers.call(this, url, ...rest); };
  const Channel = window.BroadcastChannel;
  if (Channel) window.BroadcastChannel = new Proxy(Channel, { construct(target, rest) { workers.add(`channel ${String(rest[0]).slice(0, 300)}`); return Reflect.construct(target, rest); } });
  const define = customElements.define;
  CustomElementRegistry.prototype.define = function (name, ...rest) { defined.add(name); return define.call(this, name, ...rest); };

  // A picture of more than the window makes the window as large for a moment, which is not for scripts to know.
  let hushed = false;
  for (const target of [window, window.visualViewport]) if (target) add.call(target, "resize", (event) => { if (hushed) event.stopImmediatePropagation(); }, true);

  Object.defineProperty(window, Symbol.for("unladen.watch"), { value: {
    // For listeners of our own, which are not the page's.
    listen: (target, ...rest) => add.apply(target, rest),
    media,
    kinds: (target) => [...(listeners.get(target)?.keys() ?? [])].sort(),
    busy: () => pending > 0 ? "a timer is about to run" : asking > 0 ? "a script waits for an answer" : "",
    drawing: () => frozen > 0,
    since: () => now() - changed,
    changes: () => changes,
    // Lets time pass for what was held: all that falls due, in order, each repetition too, but no more than 200 calls.
    // Returns how many there were.
    advance: async (ms) => {
      const end = clock + ms;
      let calls = 0;
      for (; calls < 200; calls++) {
        const next = [...held].filter(([, t]) => t.due <= end).sort((a, b) => a[1].due - b[1].due || a[0] - b[0])[0];
        if (!next) break;
        const [id, timer] = next;
        clock = Math.max(clock, timer.due);
        if (timer.every && timer.spent < 20 * OFTEN) { timer.due = clock + timer.every; timer.spent += timer.every; } else held.delete(id);
        try { call(timer.what, timer.rest); } catch (error) { timeout(() => { throw error; }, 0); }
        await new Promise((done) => timeout(done, 0));
      }
      clock = end;
      return calls;
    },
    wait: (ms) => new Promise((done) => timeout(done, ms)),
    time: now,
    expect: () => { untold = true; },
    hush: async function (on) { if (!on) { await this.frame(); await this.frame(); } hushed = on; return true; },
    // Frames out of sight are not drawn.
    frame: () => new Promise((done) => { const late = timeout(done, window === top ? 400 : 40); frame(() => timeout(() => timeout(() => { clear(late); done(); }, 0), 0)); }),
    // As a frame, where something may come of one: a visitor who sees more, another size, a scroll or the end of a movement
    // that nobody was told of yet. Otherwise events that are under way.
    async turn() {
      const scrolled = untold || window.scrollX !== right || window.scrollY !== down;
      if (scrolled || observers > 0 || frozen > 0 || document.querySelector("[loading=lazy]")) {
        untold = false;
        await this.frame();
        reached();
        return;
      }
      for (let n = 0; n < 3; n++) await this.wait(1);
    },
    workers, defined, attempts,
  } });
})();
