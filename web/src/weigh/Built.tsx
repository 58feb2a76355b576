import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import type { Bench, Detail } from "../api/client";
import type { PartProps } from "../model/part";
import type { View } from "../model/state";
import { shortAddress } from "../ui/parties";
import { count, kB } from "../ui/format";
import { useSize } from "../ui/useSize";
import { Loaded, Sides, useChosen } from "./chosen";

/** Fonts and how the page is built. */
export default function Built({ bench, view }: PartProps) {
  const chosen = useChosen(bench, view);
  return (
    <Loaded chosen={chosen}>
      {(detail) => (
        <>
          <section>
            <div className="head">
              <h1>Fonts of {view.page}</h1>
              <Sides chosen={chosen} />
              <span className="soft">{families(detail)}</span>
            </div>
            {detail.fonts.length === 0 ? (
              <p className="soft pad">No font files: the page uses fonts of the visitor's device.</p>
            ) : (
              <Fonts detail={detail} />
            )}
          </section>
          <Structure bench={bench} view={view} detail={detail} />
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
      <thead>
        <tr>
          <th>Family</th>
          <th>Weight, style</th>
          <th>File</th>
          <th>Used by</th>
          <th>Characters shown</th>
          <th className="n">Transferred</th>
        </tr>
      </thead>
      <tbody>
        {detail.fonts.map((font) => (
          <tr key={font.url}>
            <td>
              <b>{font.family || "not used by any style"}</b>
            </td>
            <td>{[font.weight, font.style].filter(Boolean).join(", ")}</td>
            <td>
              {shortAddress(font.url, detail.own_hosts)} <small className="soft">{font.format}</small>
            </td>
            <td>{shortAddress(font.asked_by, detail.own_hosts)}</td>
            <td>
              {font.glyphs ? (
                <>
                  <span className="used-bar">
                    <i style={{ width: `${(font.used / font.glyphs) * 100}%` }} />
                  </span>{" "}
                  {count(font.used)} of {count(font.glyphs)}
                </>
              ) : (
                "unreadable file"
              )}
            </td>
            <td className="n">{kB(font.transferred)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

type Part = Detail["structure"]["sections"][number];

/** The heaviest sections as a list and on the page's picture, each named by its heading or label. */
function Structure({ bench, view, detail }: { bench: Bench; view: View; detail: Detail }) {
  const built = detail.structure;
  const [chosen, setChosen] = useState<string | null>(null);
  const most = Math.max(1, ...built.sections.map((section) => section.nodes));
  const others = [...(built.deepest ? [built.deepest] : []), ...built.moving];
  const shown = [...built.sections, ...others].find((part) => part.selector === chosen);
  const choose = (part: Part) => setChosen(part.selector === chosen ? null : part.selector);
  return (
    <section>
      <div className="head">
        <h1>Fonts and structure</h1>
        <span className="soft">
          {count(built.nodes)} elements, {built.depth} deep
        </span>
      </div>
      <div className="built">
        <div>
          <table className="weigh-ins">
            <thead>
              <tr>
                <th>Sections with most elements</th>
                <th />
                <th className="n">Elements</th>
              </tr>
            </thead>
            <tbody>
              {built.sections.map((section) => (
                <tr key={section.selector} className={section.selector === chosen ? "sel" : ""}>
                  <td>
                    <PartName part={section} onChoose={choose} chosen={chosen} />
                  </td>
                  <td>
                    <span className="share-bar own" style={{ width: `${(section.nodes / most) * 100}%` }} />
                  </td>
                  <td className="n">{count(section.nodes)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {built.deepest && (
            <p className="pad">
              <b>Deepest element</b>
              <br />
              <PartName part={built.deepest} onChoose={choose} chosen={chosen} />
            </p>
          )}
          <p className="pad">
            <b>Animations without an end: {built.moving.length || "none"}</b>
            {built.nested.length > 0 && `, ${built.nested.length} of them within another`}
          </p>
          {built.moving.length > 0 && (
            <ul>
              {built.moving.map((part) => (
                <li key={part.selector}>
                  <PartName part={part} onChoose={choose} chosen={chosen} />
                </li>
              ))}
            </ul>
          )}
        </div>
        <Placed bench={bench} view={view} parts={built.sections} shown={shown} onChoose={choose} />
      </div>
    </section>
  );
}

/** What a reader of the page would call it; where it stands in the text of the page is told on hover. */
function PartName({ part, chosen, onChoose }: { part: Part; chosen: string | null; onChoose: (part: Part) => void }) {
  return (
    <Button
      type="link"
      size="small"
      className="part-name"
      title={part.selector}
      aria-pressed={part.selector === chosen}
      onClick={() => onChoose(part)}
    >
      {part.label}
    </Button>
  );
}

interface PlacedProps {
  bench: Bench;
  view: View;
  parts: Part[];
  shown: Part | undefined;
  onChoose: (part: Part) => void;
}

function Placed({ bench, view, parts, shown, onChoose }: PlacedProps) {
  const frame = useRef<HTMLDivElement>(null);
  const { width } = useSize(frame);
  const picture = bench.pictures.find((entry) => entry.page === view.page && entry.device === view.device);
  const scale = picture ? Math.min(1, Math.max(0, width - 20) / picture.width) : 1;
  const visible = (part: Part) => part.width > 0 && part.height > 0;
  const box = (part: Part) => ({
    left: part.x * scale,
    top: part.y * scale,
    width: part.width * scale,
    height: part.height * scale,
  });
  const top = shown && visible(shown) ? shown.y * scale : null;
  useEffect(() => {
    if (top !== null) frame.current?.scrollTo({ top: Math.max(0, top - 60) });
  }, [top]);
  return (
    <div className="placed" ref={frame} tabIndex={0}>
      {picture?.name ? (
        <div className="page-sheet" style={{ width: picture.width * scale, height: picture.height * scale }}>
          <img
            src={`/api/sites/${bench.id}/pictures/${picture.name}`}
            alt={`${view.page} on a ${view.device}, as found`}
            width={picture.width * scale}
          />
          {parts.filter(visible).map((part) => (
            <button
              type="button"
              key={part.selector}
              tabIndex={-1}
              className="section-mark"
              title={`${part.label}: ${count(part.nodes)} elements`}
              style={box(part)}
              onClick={() => onChoose(part)}
            />
          ))}
          {shown && visible(shown) && (
            <div className="ring" style={box(shown)}>
              <span className="tag">{wordsOf(shown)}</span>
            </div>
          )}
        </div>
      ) : (
        <p className="soft pad">This page has no picture as found.</p>
      )}
      {shown && !visible(shown) && <p className="soft pad">{shown.label} is not visible on this page.</p>}
    </div>
  );
}

function wordsOf(part: Part): string {
  return `${part.label}: ${count(part.nodes)}`;
}
