import { Button, Input, InputNumber, Select } from "antd";
import type { Limit } from "../api/client";
import { KINDS, LABELS } from "../ui/kinds";
import { BY_REQUEST, figure, MEASURES } from "./limits";

interface Props {
  limit: Limit;
  at: number;
  label: string | undefined;
  unit: string;
  /** Figures of all weigh-ins that it limits; null while limits are edited. */
  figures: number[] | null;
  devices: string[];
  onEdit: (more: Partial<Limit>) => void;
  onRemove: () => void;
}

/** A limit, editable but for the first one, which is the peg on the beam. */
export function LimitRow({ limit, at, label, unit, figures, devices, onEdit, onRemove }: Props) {
  const worst = Math.max(...(figures ?? []));
  return (
    <tr>
      <td>
        <Select
          size="small"
          aria-label={`Measure of limit ${at + 1}`}
          disabled={at === 0}
          value={limit.measure}
          onChange={(measure) =>
            onEdit({
              measure,
              ...(BY_REQUEST.includes(measure) ? {} : { kind: "", bringer: "", host: "" }),
            })
          }
          options={Object.entries(MEASURES).map(([value, label]) => ({ value, label }))}
        />
      </td>
      <td className="n">
        <InputNumber
          size="small"
          aria-label={`Limit ${at + 1}: ${label ?? limit.measure}`}
          min={0}
          value={limit.most}
          onChange={(most) => onEdit({ most: most ?? 0 })}
        />
      </td>
      <td>
        <Select
          size="small"
          aria-label={`File type of limit ${at + 1}`}
          disabled={at === 0 || !BY_REQUEST.includes(limit.measure)}
          value={limit.kind}
          onChange={(kind) => onEdit({ kind })}
          options={[{ value: "", label: "all" }, ...KINDS.map((kind) => ({ value: kind, label: LABELS[kind] }))]}
        />
      </td>
      <td>
        <Select
          size="small"
          aria-label={`Device of limit ${at + 1}`}
          disabled={at === 0}
          value={limit.device}
          onChange={(device) => onEdit({ device })}
          options={[{ value: "", label: "all" }, ...devices.map((name) => ({ value: name, label: name }))]}
        />
      </td>
      <td>
        <Input
          size="small"
          aria-label={`Pages of limit ${at + 1}`}
          disabled={at === 0}
          placeholder="all, or a pattern such as /blog/*"
          value={limit.pages?.join(" ") ?? ""}
          onChange={(event) => onEdit({ pages: event.target.value.split(" ").filter(Boolean) })}
        />
      </td>
      <td className={worst > limit.most ? "over" : ""}>
        {figures === null ? "" : figures.length > 0 ? figure(worst, unit) : "no weigh-in"}
      </td>
      <td>
        {at > 0 && (
          <Button size="small" type="link" aria-label={`Remove limit ${at + 1}`} onClick={onRemove}>
            Remove
          </Button>
        )}
      </td>
    </tr>
  );
}
