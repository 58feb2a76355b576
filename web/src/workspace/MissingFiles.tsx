import { Alert } from "antd";
import { useState } from "react";
import type { Bench } from "../api/client";
import { counted, namely } from "../ui/format";
import { heldOf } from "../model/state";

/** Says once, on every stage, that pages request files which the site does not have; it can be closed. */
export function MissingFiles({ bench }: { bench: Bench }) {
  const missing = [...new Set(heldOf(bench.weigh_ins).flatMap((weighIn) => weighIn.missing))].sort();
  const key = `missing ${bench.id} ${missing.length}`;
  const [closed, setClosed] = useState("");
  if (missing.length === 0 || closed === key || localStorage.getItem(key)) return null;
  const hosts = [...new Set(missing.map(hostOf))].filter(Boolean);
  return (
    <Alert
      banner
      type="warning"
      title={
        `Missing from this site: ${counted(missing.length, "requested file")}` +
        `${hosts.length > 0 ? ` (${namely(hosts)})` : ""}. ` +
        "Weights and checks do not include them. Record the site by its address, or upload a copy that has these files."
      }
      closable={{
        onClose: () => {
          localStorage.setItem(key, "closed");
          setClosed(key);
        },
      }}
    />
  );
}

function hostOf(url: string): string {
  try {
    return new URL(url).host;
  } catch {
    return "";
  }
}
