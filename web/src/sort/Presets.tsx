import { Button, Dropdown } from "antd";
import type { Effort, Preset } from "../api/client";
import { useDeletePreset } from "../api/presets";

interface Props {
  presets: Preset[];
  busy: boolean;
  onTry: (body: { effort: Effort; preset: string }) => void;
}

/** One's own ready-made plans, beside the efforts. */
export function Presets({ presets, busy, onTry }: Props) {
  const forget = useDeletePreset();
  return (
    <Dropdown
      trigger={["click"]}
      menu={{
        items: presets.map(({ id, name, effort, without }) => ({
          key: id,
          label: `Try ${name}`,
          title: `${effort}${without.length > 0 ? `, without ${without.length} remedies` : ""}`,
          extra: (
            <Button
              size="small"
              type="link"
              aria-label={`Delete preset ${name}`}
              onClick={(event) => {
                event.stopPropagation();
                forget.mutate(id);
              }}
            >
              Delete
            </Button>
          ),
          disabled: busy,
          onClick: () => onTry({ effort, preset: id }),
        })),
      }}
    >
      <Button size="small">Presets</Button>
    </Dropdown>
  );
}
