// Writes the scripts that pages carry in their short form, beside their readable ones.
import { readFileSync, writeFileSync } from "node:fs";
import { minifySync } from "rolldown/utils";

const folder = new URL("../unladen/remedies/", import.meta.url);
for (const name of ["loader", "waiter", "stiller"]) {
  const { code, errors } = minifySync(`${name}.js`, readFileSync(new URL(`${name}.js`, folder), "utf8"), {
    module: false,
    compress: { target: "es2020" },
    mangle: { toplevel: true },
  });
  if (errors.length > 0) throw new Error(errors.map((error) => error.message).join("\n"));
  const text = code.trim().replace(/;$/, "") + "\n";
  if (process.argv[2] === "--print") process.stdout.write(text);
  else writeFileSync(new URL(`${name}.min.js`, folder), text);
}
