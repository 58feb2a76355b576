// Writes the script that pages carry in its short form, beside its readable one.
import { readFileSync, writeFileSync } from "node:fs";
import { minifySync } from "rolldown/utils";

const folder = new URL("../unladen/remedies/", import.meta.url);
const { code, errors } = minifySync("loader.js", readFileSync(new URL("loader.js", folder), "utf8"), {
  module: false,
  compress: { target: "es2020" },
  mangle: { toplevel: true },
});
if (errors.length > 0) throw new Error(errors.map((error) => error.message).join("\n"));
const text = code.trim().replace(/;$/, "") + "\n";
if (process.argv[2] === "--print") process.stdout.write(text);
else writeFileSync(new URL("loader.min.js", folder), text);
