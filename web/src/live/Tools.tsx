import { Segmented } from "antd";
import type { Words } from "../api/client";
import type { Device, Way } from "./LivePair";

const WAYS: { value: Way; label: string }[] = [
  { value: "sides", label: "Side by side" },
  { value: "blink", label: "Blink" },
  { value: "split", label: "Split" },
];

/** The devices, or the usual one where the conditions in force are of a window of one's own. */
export function deviceOf(words: Words, name: string): Device {
  const found = words.devices.find((device) => device.name === name) ?? words.devices[0];
  if (!found) throw new Error("no devices");
  return found;
}

export function nextDevice(words: Words, name: string): string {
  const at = words.devices.findIndex((device) => device.name === name);
  return words.devices[(at + 1) % words.devices.length]?.name ?? name;
}

interface Props {
  words: Words;
  device: string;
  onDevice: (name: string) => void;
  way: Way;
  onWay: (way: Way) => void;
}

/** In which window, and how the two copies lie beside each other. */
export function Tools({ words, device, onDevice, way, onWay }: Props) {
  return (
    <>
      <Segmented
        size="small"
        aria-label="Device"
        value={device}
        onChange={onDevice}
        options={words.devices.map(({ name, width }) => ({ value: name, label: `${name} ${width}` }))}
      />
      <Segmented size="small" aria-label="Compare by" value={way} onChange={onWay} options={WAYS} />
      {way === "blink" && <span className="soft">Hold b to show the page without</span>}
    </>
  );
}
