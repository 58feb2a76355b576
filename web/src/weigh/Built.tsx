import type { Detail } from "../api/client";
import type { PartProps } from "../bench/BenchPage";
import { shortAddress } from "../ui/bringers";
import { count, kB } from "../ui/format";
import { Loaded, Sides, useChosen } from "./chosen";

/** Fonts and how the page is built. */
export default function Built({ bench, view }: PartProps) {
  const chosen = useChosen(bench, view);
  return (
    <Loaded chosen={chosen}>
      {(detail) => (
        <>
          <section>
            <div className="head"><h1>Fonts of {view.page}</h1><Sides chosen={chosen} /><span className="soft">{families(detail)}</span></div>
            {detail.fonts.length === 0 ? <p className="soft pad">No font files: the page is set in what the visitor has.</p> : <Fonts detail={detail} />}
          </section>
          <Structure detail={detail} />
        </>
      )}
    </Loaded>
  );
}

function families({ fonts }: Detail): string {
  const names = new Set(fonts.map((font) => font.family || font.url));
  if (names.size === 0) return "";
  const bytes = fonts.reduce((sum, font) => sum + font.transferred, 0);
  return `${names.size} ${names.size === 1 ? "family" : "families"} in ${fonts.length} files, ${kB(bytes)}`;
}

function Fonts({ detail }: { detail: Detail }) {
  return (
    <table className="weigh-ins">
      <thead><tr><th>Family</th><th>Weight, style</th><th>File</th><th>Asked for by</th><th>Characters shown</th><th className="n">Transferred</th></tr></thead>
      <tbody>
        {detail.fonts.map((font) => (
          <tr key={font.url}>
            <td><b>{font.family || "not named by a style"}</b></td>
            <td>{[font.weight, font.style].filter(Boolean).join(", ")}</td>
            <td>{shortAddress(font.url, detail.own_hosts)} <small className="soft">{font.format}</small></td>
            <td>{shortAddress(font.asked_by, detail.own_hosts)}</td>
            <td>{font.glyphs ? <><span className="used-bar"><i style={{ width: `${(font.used / font.glyphs) * 100}%` }} /></span> {count(font.used)} of {count(font.glyphs)}</> : "cannot be read"}</td>
            <td className="n">{kB(font.transferred)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Structure({ detail }: { detail: Detail }) {
  const built = detail.structure;
  const most = Math.max(1, ...built.sections.map((section) => section.nodes));
  return (
    <section>
      <div className="head"><h1>How it is built</h1><span className="soft">{count(built.nodes)} elements, {built.depth} deep</span></div>
      <div className="columns">
        <table className="weigh-ins">
          <thead><tr><th>Sections with most elements</th><th /><th className="n">Elements</th></tr></thead>
          <tbody>
            {built.sections.map((section) => (
              <tr key={section.selector}><td><code>{section.selector}</code></td><td><span className="share-bar own" style={{ width: `${(section.nodes / most) * 100}%` }} /></td><td className="n">{count(section.nodes)}</td></tr>
            ))}
          </tbody>
        </table>
        <div className="built">
          <p><b>The deepest element</b><br /><code>{built.deepest}</code></p>
          <p><b>Animations without an end: {built.endless.length || "none"}</b>{built.nested.length > 0 && `, ${built.nested.length} of them within another`}</p>
          {built.endless.length > 0 && <ul>{built.endless.map((selector) => <li key={selector}><code>{selector}</code></li>)}</ul>}
        </div>
      </div>
    </section>
  );
}
