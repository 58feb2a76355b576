import { Alert, Button, Checkbox, Form, Input, Popover, Select } from "antd";
import { useState } from "react";
import type { Session } from "../api/client";
import { type User, useAddUser, useDeeds, useEditUser, useUsers } from "../api/users";
import { Bar } from "../frame/Bar";
import { count, disk, moment } from "../ui/format";
import { Trouble } from "../frame/Trouble";
import { Waiting } from "../ui/Waiting";

/** Users here, and what was done; for administrators. */
export default function UsersPage({ session }: { session: Session }) {
  const users = useUsers();
  const [who, setWho] = useState("");
  if (users.error) return <Trouble error={users.error} again={() => void users.refetch()} />;
  return (
    <div className="page">
      <Bar session={session} path={<b>Users</b>} />
      <main className="wide">
        <h1>Users</h1>
        {!users.data && <Waiting />}
        {users.data && (
          <>
            <table className="weigh-ins users">
              <thead>
                <tr>
                  <th>User name</th>
                  <th>Last seen</th>
                  <th className="n">Sites</th>
                  <th className="n">Disk space</th>
                  <th>Rights</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {users.data.map((user) => (
                  <UserRow key={user.username} user={user} self={user.username === session.username} />
                ))}
              </tbody>
            </table>
            <NewUser />
            <h2 className="gap-above">Audit log</h2>
            <Select
              aria-label="Entries of"
              value={who}
              onChange={setWho}
              style={{ minWidth: 200 }}
              options={[
                { value: "", label: "all users" },
                ...users.data.map((user) => ({ value: user.username, label: user.username })),
              ]}
            />
            <Deeds who={who} />
          </>
        )}
      </main>
    </div>
  );
}

function UserRow({ user, self }: { user: User; self: boolean }) {
  const edit = useEditUser(user.username);
  return (
    <tr className={user.active ? "" : "soft"}>
      <td>
        <b>{user.username}</b>
        {self && " (you)"}
      </td>
      <td>{user.last_login ? moment(user.last_login) : "never"}</td>
      <td className="n">{count(user.sites)}</td>
      <td className="n">{disk(user.stored)}</td>
      <td>
        <Checkbox
          checked={user.active}
          disabled={self || edit.isPending}
          onChange={(event) => edit.mutate({ active: event.target.checked })}
        >
          sign in
        </Checkbox>
        <Checkbox
          checked={user.admin}
          disabled={self || edit.isPending}
          onChange={(event) => edit.mutate({ admin: event.target.checked })}
        >
          administrator
        </Checkbox>
        {edit.error && (
          <small role="alert" className="missing">
            {edit.error.message}
          </small>
        )}
      </td>
      <td className="n">
        <Popover
          trigger="click"
          placement="bottomRight"
          content={<NewPassword user={user} />}
          title={`New password for ${user.username}`}
        >
          <Button size="small" aria-label={`Set a password for ${user.username}`}>
            Set password
          </Button>
        </Popover>
      </td>
    </tr>
  );
}

function NewPassword({ user }: { user: User }) {
  const edit = useEditUser(user.username);
  return (
    <Form layout="vertical" onFinish={(values: { password: string }) => edit.mutate(values)}>
      <Form.Item
        name="password"
        label="Password (10 characters or more)"
        rules={[{ required: true, message: "Enter a password." }]}
      >
        <Input.Password autoComplete="new-password" />
      </Form.Item>
      {edit.error && <Alert type="error" showIcon title={edit.error.message} className="gap-below" />}
      {edit.isSuccess && <Alert type="success" showIcon title="Password changed." className="gap-below" />}
      <Button htmlType="submit" loading={edit.isPending}>
        Save password
      </Button>
    </Form>
  );
}

function NewUser() {
  const add = useAddUser();
  const [form] = Form.useForm();
  return (
    <Form
      form={form}
      layout="inline"
      className="gap-above"
      initialValues={{ admin: false }}
      onFinish={(values: { username: string; password: string; admin: boolean }) =>
        add.mutate(values, { onSuccess: () => form.resetFields() })
      }
    >
      <Form.Item name="username" rules={[{ required: true, message: "Enter a user name." }]}>
        <Input placeholder="User name" aria-label="User name" autoComplete="off" />
      </Form.Item>
      <Form.Item name="password" rules={[{ required: true, message: "Enter a password." }]}>
        <Input.Password placeholder="Password" aria-label="Password" autoComplete="new-password" />
      </Form.Item>
      <Form.Item name="admin" valuePropName="checked">
        <Checkbox>administrator</Checkbox>
      </Form.Item>
      <Button type="primary" htmlType="submit" loading={add.isPending}>
        Add user
      </Button>
      {add.error && <Alert type="error" showIcon title={add.error.message} className="gap-above" />}
    </Form>
  );
}

function Deeds({ who }: { who: string }) {
  const deeds = useDeeds(who);
  if (deeds.error) return <Trouble error={deeds.error} again={() => void deeds.refetch()} />;
  if (!deeds.data) return <Waiting />;
  if (!deeds.data.length) return <p className="soft">No entries yet.</p>;
  return (
    <table className="weigh-ins">
      <thead>
        <tr>
          <th>When</th>
          <th>Who</th>
          <th>Address</th>
          <th>Action</th>
          <th>Site</th>
        </tr>
      </thead>
      <tbody>
        {deeds.data.map((deed, number) => (
          <tr key={`${deed.at} ${number}`}>
            <td>{moment(deed.at)}</td>
            <td>{deed.who || "nobody"}</td>
            <td>{deed.address}</td>
            <td>
              {deed.what}
              {deed.status >= 400 && <small className="missing"> refused ({deed.status})</small>}
            </td>
            <td>{deed.about}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
