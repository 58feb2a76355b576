import { Alert, Button, Form, Input, Select, Upload } from "antd";
import { useState } from "react";
import type { Bench, Change, EmbedCommand } from "../api/client";
import { useOwnPicture, useTry } from "../api/plan";

type Embed = NonNullable<Change["embed"]>;
type Way = EmbedCommand["way"];

const WAYS: { value: Way; label: string }[] = [
  { value: "still", label: "Placeholder with a button" },
  { value: "link", label: "Placeholder with a link" },
  { value: "lazy", label: "The embed itself, when near" },
  { value: "leave", label: "The embed itself, at once" },
];
const WAITS: { value: Way; label: string }[] = [
  { value: "near", label: "Loads when near" },
  { value: "click", label: "Placeholder with a button" },
  { value: "act", label: "Loads when the visitor does something" },
  { value: "leave", label: "Loads at once" },
];
const WINDOWS = [
  { value: 0, label: "All widths" },
  { value: 1024, label: "Phones and tablets, up to 1,024 px" },
  { value: 700, label: "Phones, up to 700 px" },
];
const PICTURES: Record<Embed["picture"], string> = {
  seen: "Picture of the embed",
  poster: "The embed's own poster",
  own: "My own picture",
};

interface Props {
  bench: Bench;
  change: Change;
  embed: Embed;
  busy: boolean;
}

/** What stands in for an embed until a visitor asks for it. */
export default function EmbedForm({ bench, change, embed, busy }: Props) {
  const [way, setWay] = useState<Way>(embed.way);
  const [title, setTitle] = useState(embed.title);
  const [start, setStart] = useState(embed.start);
  const [below, setBelow] = useState(embed.below);
  const [picture, setPicture] = useState(embed.picture);
  const tryOut = useTry(bench.id);
  const own = useOwnPicture(bench.id);
  const pictured = way === "still" || way === "link" || way === "click";
  const ways =
    change.remedy !== "delay-scripts"
      ? WAYS
      : WAITS.filter(({ value }) => embed.pictures.length > 0 || value === "act" || value === "leave");
  const source = `/api/sites/${bench.id}/plan/picture?id=${encodeURIComponent(change.id)}&which=${picture}`;

  function send(file: File) {
    own.mutate({ change: change.id, file }, { onSuccess: () => setPicture("own") });
    return false;
  }
  return (
    <Form
      layout="vertical"
      size="small"
      className="embed"
      disabled={busy}
      onFinish={() => tryOut.mutate({ commands: [{ do: "embed", id: change.id, way, title, start, below, picture }] })}
    >
      <Form.Item label="Shown until a visitor wants it" htmlFor="embed-way">
        <Select id="embed-way" value={way} options={ways} onChange={setWay} />
      </Form.Item>
      {pictured && (
        <>
          <figure>
            {embed.pictures.includes(picture) ? (
              <img src={source} alt={`Placeholder: ${title}`} />
            ) : (
              <span className="soft">No picture; a plain background.</span>
            )}
            <figcaption>
              {embed.kind === "player" && <i aria-hidden="true">{"\u25B6"} </i>}
              {title}
            </figcaption>
          </figure>
          <div className="row">
            <Select
              aria-label="Picture of the placeholder"
              value={picture}
              onChange={setPicture}
              options={embed.pictures.map((value) => ({ value, label: PICTURES[value] }))}
            />
            <Upload accept="image/*" showUploadList={false} beforeUpload={send}>
              <Button>Upload a picture</Button>
            </Upload>
          </div>
          <Form.Item label="Button label" htmlFor="embed-title">
            <Input
              id="embed-title"
              value={title}
              maxLength={200}
              onChange={(event) => {
                setTitle(event.target.value);
              }}
            />
          </Form.Item>
        </>
      )}
      {way === "still" && embed.kind === "player" && (
        <Form.Item label="Query that starts playback" htmlFor="embed-start">
          <Input
            id="embed-start"
            value={start}
            maxLength={200}
            onChange={(event) => {
              setStart(event.target.value);
            }}
          />
        </Form.Item>
      )}
      {way === "still" && (
        <Form.Item label="Viewport widths" htmlFor="embed-below">
          <Select id="embed-below" value={below} options={WINDOWS} onChange={setBelow} />
        </Form.Item>
      )}
      {own.error && <Alert type="error" title={own.error.message} />}
      <Button htmlType="submit">Apply</Button>
    </Form>
  );
}
