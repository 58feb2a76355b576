import { Table } from "antd";
import type { Bench, Change } from "../api/client";
import { useStaying } from "../api/plan";
import { count } from "../ui/format";

const PER_PAGE = 8;

/** What a trim leaves in style sheets, with what keeps it. */
export function StayingRules({ bench, change, words }: { bench: Bench; change: Change; words: string }) {
  const found = useStaying(bench.id, change.id, words, bench.plan?.version ?? "");
  const rules = found.data?.rules ?? [];
  const total = found.data?.total ?? 0;
  return (
    <>
      <Table
        size="small"
        tableLayout="fixed"
        rowKey={(rule) => `${rule.start} ${rule.what}`}
        loading={found.isFetching}
        dataSource={rules}
        locale={{ emptyText: found.error ? found.error.message : "No kept rules match." }}
        pagination={{ pageSize: PER_PAGE, size: "small", showSizeChanger: false, hideOnSinglePage: true }}
        columns={[
          {
            title: "Kept rules and reasons",
            dataIndex: "what",
            render: (what: string, rule) => (
              <>
                <code className="rule" title={what}>
                  {what}
                </code>
                <small className="soft">{rule.why}</small>
              </>
            ),
          },
        ]}
      />
      {total > rules.length && (
        <p className="soft">
          The first {count(rules.length)} of {count(total)} are shown; look for words to find others.
        </p>
      )}
    </>
  );
}
