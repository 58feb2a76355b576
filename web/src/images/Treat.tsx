import { Button, Checkbox, Select } from "antd";
import { useState } from "react";
import type { ImageRow, ImagesCommand } from "../api/client";
import { count } from "../ui/format";
import { LIKENESSES } from "./rows";

type Treatment = "" | "leave" | "WEBP" | "AVIF" | "JPEG" | "PNG";

/** How the chosen images are treated, all at once. */
export function Treat({
  marked,
  rows,
  busy,
  onTreat,
  onClear,
}: {
  marked: string[];
  rows: ImageRow[];
  busy: boolean;
  onTreat: (body: ImagesCommand) => void;
  onClear: () => void;
}) {
  const [format, setFormat] = useState<Treatment>("WEBP");
  const [likeness, setLikeness] = useState<"exact" | "true" | "fine" | "fair">("fine");
  const [family, setFamily] = useState(false);
  if (marked.length === 0) return null;
  const chosen = new Set(marked);
  const related = rows.some((row) => row.family && chosen.has(row.path));
  const body: ImagesCommand = {
    do: "images",
    paths: marked,
    format,
    likeness,
    width: 0,
    quality: 0,
    on: true,
    family: family && related,
  };
  return (
    <div className="treat" role="region" aria-label="Selected images">
      <b>{marked.length === 1 ? "1 image" : `${count(marked.length)} images`}</b>
      <Select
        size="small"
        aria-label="New format"
        value={format}
        onChange={setFormat}
        popupMatchSelectWidth={false}
        options={[
          { value: "WEBP", label: "WebP" },
          { value: "AVIF", label: "AVIF" },
          { value: "", label: "Same format and name" },
          { value: "JPEG", label: "JPEG" },
          { value: "leave", label: "Leave unchanged" },
        ]}
      />
      {format !== "leave" && (
        <Select
          size="small"
          aria-label="Likeness"
          value={likeness}
          onChange={setLikeness}
          popupMatchSelectWidth={false}
          options={LIKENESSES.map(({ value, label, hint }) => ({ value, label: `${label}: ${hint}` }))}
        />
      )}
      {related && (
        <Checkbox checked={family} onChange={(event) => setFamily(event.target.checked)}>
          including their other sizes
        </Checkbox>
      )}
      <Button size="small" type="primary" disabled={busy} onClick={() => onTreat(body)}>
        Add to plan
      </Button>
      <Button size="small" onClick={onClear}>
        Clear selection
      </Button>
    </div>
  );
}
