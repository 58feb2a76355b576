import { Button, Drawer, Input, Spin } from "antd";
import type { Bench } from "../api/client";
import { useGoTo, useNameVersion, useVersions } from "../api/plan";
import { count, moment } from "../ui/format";

/** Every edit made a version; any of them can be the plan again, and those with a name are kept. */
export function Versions({
  bench,
  busy,
  onClose,
  onCompare,
}: {
  bench: Bench;
  busy: boolean;
  onClose: () => void;
  onCompare: (version: string, name: string) => void;
}) {
  const versions = useVersions(bench.id, true, bench.plan?.version ?? "");
  const goTo = useGoTo(bench.id);
  const name = useNameVersion(bench.id);
  return (
    <Drawer open onClose={onClose} size={560} title="Versions of the plan">
      {!versions.data && <Spin />}
      {versions.data && (
        <table className="weigh-ins versions">
          <thead>
            <tr>
              <th>Made</th>
              <th>Name</th>
              <th className="n">Changes on</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {versions.data.map((version) => (
              <tr key={version.id} className={version.head ? "sel" : ""}>
                <td>
                  {moment(version.made)}
                  {version.run && <small className="soft"> has a run</small>}
                </td>
                <td>
                  <Input
                    key={version.name}
                    size="small"
                    variant="borderless"
                    aria-label={`Name of the version of ${moment(version.made)}`}
                    placeholder="Name to keep it"
                    defaultValue={version.name}
                    maxLength={100}
                    onBlur={(event) => {
                      if (event.target.value !== version.name)
                        name.mutate({ version_id: version.id, name: event.target.value });
                    }}
                    onPressEnter={(event) => event.currentTarget.blur()}
                  />
                </td>
                <td className="n">{count(version.on)}</td>
                <td className="n">
                  {version.head ? (
                    <span className="soft">current plan</span>
                  ) : (
                    <>
                      <Button
                        size="small"
                        onClick={() => onCompare(version.id, version.name || `The version of ${moment(version.made)}`)}
                      >
                        Compare
                      </Button>{" "}
                      <Button size="small" disabled={busy} onClick={() => goTo.mutate(version.id)}>
                        Restore version
                      </Button>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Drawer>
  );
}
