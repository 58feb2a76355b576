import { Alert, Button, Form, Input } from "antd";
import { useSignIn } from "../api/session";
import { Bar } from "./Bar";

export function SignIn() {
  const signIn = useSignIn();
  return (
    <>
      <Bar />
      <main className="narrow">
        <h1>Sign in</h1>
        <Form
          layout="vertical"
          requiredMark={false}
          onFinish={(values: { username: string; password: string }) => signIn.mutate(values)}
        >
          <Form.Item name="username" label="User name" rules={[{ required: true, message: "Enter your user name." }]}>
            <Input autoComplete="username" autoFocus />
          </Form.Item>
          <Form.Item name="password" label="Password" rules={[{ required: true, message: "Enter your password." }]}>
            <Input.Password autoComplete="current-password" />
          </Form.Item>
          {signIn.error && <Alert type="error" showIcon title={signIn.error.message} className="gap-below" />}
          <Button type="primary" htmlType="submit" loading={signIn.isPending}>
            Sign in
          </Button>
        </Form>
        <p className="soft gap-above">
          The administrator of this server creates users with <code>./mule user NAME</code>.
        </p>
      </main>
    </>
  );
}
