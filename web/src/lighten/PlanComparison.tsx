import { Alert, Button, Modal, Table } from "antd";
import { useState } from "react";
import type { Apart, Bench, BesideOf } from "../api/client";
import { nameOfOther, type Other, useBeside, useGoTo, useLoadPlan, useMerge } from "../api/plan";
import { count } from "../ui/format";
import { Waiting } from "../ui/Waiting";
import { changeName } from "../model/names";

const MOST_LISTED = 12;

interface Props {
  bench: Bench;
  other: Other;
  busy: boolean;
  onClose: () => void;
}

/** Another plan beside the current one: how far it fits, where they differ, and what to merge. It starts no run. */
export function PlanComparison({ bench, other, busy, onClose }: Props) {
  const beside = useBeside(bench.id, bench.plan?.version ?? "", other);
  const load = useLoadPlan(bench.id);
  const goTo = useGoTo(bench.id);
  const merge = useMerge(bench.id);
  const [taken, setTaken] = useState<string[]>([]);
  const found = beside.data;
  const end = { onSuccess: onClose };
  const takeAll = () => {
    if ("file" in other) load.mutate({ file: other.file }, end);
    else goTo.mutate(other.version, end);
  };
  const takeSome = () => {
    if ("file" in other) load.mutate({ file: other.file, take: taken }, end);
    else merge.mutate({ other: other.version, take: taken }, end);
  };
  const failed = load.error ?? goTo.error ?? merge.error;
  return (
    <Modal
      open
      width="min(1040px, calc(100vw - 24px))"
      title={`${nameOfOther(other)} compared with the current plan`}
      onCancel={onClose}
      footer={[
        <Button key="close" onClick={onClose}>
          Keep the current plan
        </Button>,
        <Button key="some" disabled={busy || taken.length === 0} onClick={takeSome}>
          Take {count(taken.length)} of {count(found?.apart.length ?? 0)}
        </Button>,
        <Button key="all" type="primary" disabled={busy || !found || found.apart.length === 0} onClick={takeAll}>
          Take all changes
        </Button>,
      ]}
    >
      {(beside.error ?? failed) && <Alert type="error" title={(beside.error ?? failed)?.message} />}
      {!found && !beside.error && <Waiting />}
      {found && (
        <>
          <Fits bench={bench} found={found} />
          {found.apart.length === 0 ? (
            <p>Both plans are the same.</p>
          ) : (
            <Table<Apart>
              size="small"
              rowKey="key"
              dataSource={found.apart}
              pagination={found.apart.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
              scroll={{ x: 640, y: 380 }}
              rowSelection={{ selectedRowKeys: taken, onChange: (keys) => setTaken(keys.map(String)) }}
              columns={[
                {
                  title: "What",
                  render: (_, row) => (
                    <span title={row.targets.join("\n")}>{row.title || changeName(bench.words, row)}</span>
                  ),
                },
                { title: "Current plan", width: 220, dataIndex: "here" },
                { title: nameOfOther(other), width: 220, dataIndex: "there" },
                {
                  title: "Conflict",
                  width: 110,
                  filters: [{ text: "Conflicts only", value: true }],
                  onFilter: (value, row) => row.conflict === value,
                  render: (_, row) => (row.conflict ? "differs in both" : ""),
                },
              ]}
            />
          )}
        </>
      )}
    </Modal>
  );
}

function Fits({ bench, found }: { bench: Bench; found: BesideOf }) {
  const { fits, partly, gone } = found;
  const all = fits + partly.length + gone.length;
  if (partly.length + gone.length === 0) {
    return <p>All {count(all)} changes of the plan fit this site.</p>;
  }
  const list = [
    ...gone.map((change) => ({ change, text: "none of its files are in this site" })),
    ...partly.map((change) => ({ change, text: `not in this site: ${change.lost.slice(0, 3).join(", ")}` })),
  ];
  return (
    <>
      <p>
        Of {count(all)} changes of the plan {count(fits)} fit this site, {count(partly.length)} in part,{" "}
        {count(gone.length)} not at all.
      </p>
      <ul className="unfit">
        {list.slice(0, MOST_LISTED).map(({ change, text }) => (
          <li key={change.id}>
            {changeName(bench.words, change)}: {text}
          </li>
        ))}
        {list.length > MOST_LISTED && <li>and {count(list.length - MOST_LISTED)} more</li>}
      </ul>
    </>
  );
}
