import { Button, Input, Modal, Select } from "antd";
import { useState } from "react";
import type { Site } from "../api/client";
import { type Role, useDone, useLetIn, usePeople, useShutOut } from "../api/people";
import { count, moment } from "../ui/format";

const ROLES: { value: Role; label: string }[] = [
  { value: "look", label: "Viewer" },
  { value: "edit", label: "Editor" },
];

/** Whose a site is, who was let in, and what was done with it by whom. */
export function People({ site, username }: { site: Site; username: string }) {
  const [open, setOpen] = useState(false);
  const mine = site.role === "own";
  const label = !mine ? `Owner: ${site.owner}` : site.shared > 0 ? `Shared with ${count(site.shared)}` : "Share";
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)} aria-label={`${label}: access to ${site.name}`}>
        {label}
      </Button>
      {open && (
        <Modal open title={`Access to ${site.name}`} footer={null} onCancel={() => setOpen(false)} width={560}>
          <List site={site} mine={mine} username={username} onLeft={() => setOpen(false)} />
          {mine && <LetIn id={site.id} />}
          <Done id={site.id} />
        </Modal>
      )}
    </>
  );
}

type ListProps = { site: Site; mine: boolean; username: string; onLeft: () => void };

function List({ site, mine, username, onLeft }: ListProps) {
  const { data, error } = usePeople(site.id);
  const letIn = useLetIn(site.id);
  const shutOut = useShutOut(site.id);
  return (
    <>
      <ul className="people">
        <li>
          <b dir="auto">{site.owner}</b> <span className="soft">Owner</span>
        </li>
        {data?.people.map((person) => (
          <li key={person.username}>
            <b dir="auto">{person.username}</b>{" "}
            {mine ? (
              <Select<Role>
                size="small"
                aria-label={`Role of ${person.username}`}
                value={person.role}
                options={ROLES}
                onChange={(role) => letIn.mutate({ username: person.username, role })}
              />
            ) : (
              <span className="soft">{ROLES.find((role) => role.value === person.role)?.label}</span>
            )}{" "}
            {(mine || person.username === username) && (
              <Button
                size="small"
                onClick={() =>
                  shutOut.mutate(person.username, {
                    onSuccess: () => {
                      if (!mine) onLeft();
                    },
                  })
                }
              >
                {mine ? "Remove access" : "Leave this site"}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {(error ?? letIn.error ?? shutOut.error) && (
        <p role="alert" className="missing">
          {(error ?? letIn.error ?? shutOut.error)?.message}
        </p>
      )}
    </>
  );
}

function LetIn({ id }: { id: string }) {
  const letIn = useLetIn(id);
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("look");
  return (
    <form
      className="let-in"
      onSubmit={(event) => {
        event.preventDefault();
        letIn.mutate({ username: name.trim(), role }, { onSuccess: () => setName("") });
      }}
    >
      <Input
        aria-label="User name"
        placeholder="User name"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Select<Role> aria-label="Role" value={role} onChange={setRole} options={ROLES} />
      <Button htmlType="submit" disabled={!name.trim()} loading={letIn.isPending}>
        Give access
      </Button>
      {letIn.error && (
        <p role="alert" className="missing">
          {letIn.error.message}
        </p>
      )}
    </form>
  );
}

function Done({ id }: { id: string }) {
  const { data } = useDone(id);
  if (!data) return null;
  return (
    <details className="done" open={data.length > 0}>
      <summary>Audit log</summary>
      {data.length === 0 && <p className="soft">No entries yet.</p>}
      <ol tabIndex={0}>
        {data.map((row) => (
          <li key={`${row.at} ${row.what}`}>
            <span className="soft">{moment(row.at)}</span> <b dir="auto">{row.who}</b>: {row.what}
          </li>
        ))}
      </ol>
    </details>
  );
}
