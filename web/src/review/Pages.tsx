import { Segmented, Select } from "antd";
import { useState } from "react";
import type { Shot } from "../api/client";
import { kB, percent } from "../ui/format";

type Way = "beside" | "blink";

/** Pages as found and now: side by side, or one in the place of the other. */
export function Pages({ token, shots }: { token: string; shots: Shot[] }) {
  const [at, setAt] = useState(0);
  const [way, setWay] = useState<Way>("beside");
  const [old, setOld] = useState(false);
  const shot = shots[at];
  if (!shot) return null;
  const [before = 0, after = 0] = shot.bytes;
  const width = shot.width <= 500 ? 390 : 800;
  const address = (name: string) => `/api/review/${token}/pages/${name}?width=${width}`;
  const place = `${shot.page} on a ${shot.device}`;
  const figures = [
    { name: shot.before, said: "As found", bytes: before },
    { name: shot.after, said: "Now", bytes: after },
  ];
  return (
    <section aria-labelledby="pages">
      <div className="review-head">
        <h2 id="pages">Before and after</h2>
        <Segmented<Way>
          size="small"
          value={way}
          onChange={setWay}
          options={[
            { value: "beside", label: "Side by side" },
            { value: "blink", label: "Blink" },
          ]}
        />
      </div>
      <Select
        aria-label="Page and device"
        className="shot"
        value={at}
        onChange={setAt}
        options={shots.map((each, i) => ({ value: i, label: `${each.page} on a ${each.device}` }))}
      />
      <p>
        <b>{kB(before)}</b> became <b>{kB(after)}</b>
        {before > 0 && `, ${percent(1 - after / before)} less`}, in {shot.requests[1]} requests instead of{" "}
        {shot.requests[0]}.
      </p>
      {way === "beside" ? (
        <div className="beside">
          {figures.map(({ name, said, bytes }) => (
            <figure key={said}>
              <figcaption>
                {said} <span className="soft">{kB(bytes)}</span>
              </figcaption>
              <div className="window" tabIndex={0} role="group" aria-label={`${place}, ${said.toLowerCase()}`}>
                <img src={address(name)} alt={`${place}, ${said.toLowerCase()}`} />
              </div>
            </figure>
          ))}
        </div>
      ) : (
        <figure>
          <figcaption>
            <button type="button" aria-pressed={old} onClick={() => setOld(!old)}>
              {old ? "As found. Show now" : "Now; press to show the page as found"}
            </button>
          </figcaption>
          <div className="window over" tabIndex={0} role="group" aria-label={place}>
            <img src={address(shot.after)} alt={`${place}, now`} />
            <img src={address(shot.before)} alt={`${place}, as found`} style={{ opacity: old ? 1 : 0 }} />
          </div>
        </figure>
      )}
    </section>
  );
}
