// Runs before anything else in a page that is looked at: what our scripts say leaves the page as one text, which is many
// times cheaper than value by value. Pages may have ways of their own to write JSON, so theirs are put away meanwhile.
(() => {
  const write = JSON.stringify, BASES = [Object, Array, String, Number, Boolean].map((of) => of.prototype);
  const own = Object.getOwnPropertyDescriptor, define = Object.defineProperty;
  const pack = (value) => {
    const away = [];
    for (const base of BASES) {
      const theirs = own(base, "toJSON");
      if (theirs?.configurable) { away.push([base, theirs]); delete base.toJSON; }
    }
    try { return write(value); } finally { for (const [base, theirs] of away) define(base, "toJSON", theirs); }
  };
  define(window, Symbol.for("unladen.pack"), { value: pack });
})();
