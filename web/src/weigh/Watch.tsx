import { Button, Form, Input, Select } from "antd";
import type { Bench, WatchOrder } from "../api/client";
import { useSetWatch, useWatch } from "../api/weighing";
import { useWatchNow } from "../api/work";
import { deviceLabel } from "../model/devices";
import { counted, kB, moment } from "../ui/format";

/** The live site, weighed again now and then; what grew since the baseline, and who brought it. */
export function Watch({ bench }: { bench: Bench }) {
  const watch = useWatch(bench.id, bench.job ? "busy" : "idle");
  const set = useSetWatch(bench.id);
  const now = useWatchNow(bench.id);
  if (!watch.data) return null;
  const { often, address, mail, at, error, mail_error, grown } = watch.data;
  return (
    <section className="watch">
      <div className="head">
        <h1>Live site</h1>
        <span className="soft">
          Visited again and weighed as the baseline was; what grew is told here and in the list of sites
        </span>
      </div>
      <Form<WatchOrder>
        key={`${often} ${address} ${mail}`}
        layout="inline"
        className="pad"
        initialValues={{ often, address, mail }}
        onFinish={(body) => set.mutate(body)}
      >
        <Form.Item name="often" label="Watch">
          <Select
            style={{ width: 110 }}
            options={[
              { value: "", label: "never" },
              { value: "daily", label: "daily" },
              { value: "weekly", label: "weekly" },
            ]}
          />
        </Form.Item>
        <Form.Item name="address" label="Address">
          <Input placeholder="address of the recording" style={{ width: 240 }} />
        </Form.Item>
        <Form.Item name="mail" label="E-mail to">
          <Input placeholder="nobody" style={{ width: 180 }} />
        </Form.Item>
        <Button htmlType="submit" loading={set.isPending}>
          Save watch
        </Button>{" "}
        <Button disabled={bench.job !== null} loading={now.isPending} onClick={() => now.mutate(undefined)}>
          Weigh live site now
        </Button>
      </Form>
      {set.error && (
        <p role="alert" className="pad">
          {set.error.message}
        </p>
      )}
      {at && (
        <p className="pad">
          Visited {moment(at)}: {error || (grown.length === 0 ? "no page grew." : "")}
          {grown.length > 0 && `${counted(grown.length, "weigh-in")} grew.`} {mail_error}
        </p>
      )}
      {grown.length > 0 && (
        <table className="ledger">
          <thead>
            <tr>
              <th>Page</th>
              <th className="n">Baseline</th>
              <th className="n">Live</th>
              <th>Loaded by</th>
            </tr>
          </thead>
          <tbody>
            {grown.map((row) => (
              <tr key={`${row.page} ${row.device}`}>
                <td>
                  {row.page} <small className="soft">{deviceLabel(row.device)}</small>
                </td>
                <td className="n">{kB(row.before)}</td>
                <td className="n">{kB(row.after)}</td>
                <td>{row.by.map((by) => `${by.name} ${kB(by.bytes)}`).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
