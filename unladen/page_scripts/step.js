// One step of a walk in one go, since each question to a page takes as long as a small answer: do it, wait for rest, and tell
// what came of it.
(() => {
  const [act, rest, state] = ["act", "rest", "state"].map((name) => window[Symbol.for(`unladen.${name}`)]);
  return async ({ row, limit, quiet }) => {
    const done = await act(row);
    if (row.ms) await window[Symbol.for("unladen.watch")].advance(row.ms);
    const why = await rest({ limit, quiet });
    return { done, why, effect: state("now") };
  };
})()
