import { Alert, Button, Form, Input, InputNumber, Popconfirm } from "antd";
import { useState } from "react";
import type { Answer, ReviewRow } from "../api/client";
import { useMakeReview, useReviews, useWithdraw } from "../api/showing";
import { kB, moment } from "../ui/format";
import { Nothing } from "../ui/Nothing";

const SAID: Record<Answer["kind"], string> = { refuse: "refused", ask: "asks", accept: "accepted" };

/** Links for people without an account, and what they answered. */
export function Reviews({ id }: { id: string }) {
  const reviews = useReviews(id);
  const make = useMakeReview(id);
  const [address, setAddress] = useState("");
  return (
    <section className="reviews">
      <div className="head">
        <h1>Client&apos;s review</h1>
        <span className="soft">
          Anyone with the link sees this run and can accept, refuse or ask. No account needed.
        </span>
      </div>
      <Form
        layout="inline"
        className="pad"
        initialValues={{ days: 14, password: "", name: "" }}
        onFinish={(body: { days: number; password: string; name: string }) =>
          make.mutate(body, { onSuccess: (made) => setAddress(made.address) })
        }
      >
        <Form.Item name="name" label="For">
          <Input maxLength={100} placeholder="Client or project" />
        </Form.Item>
        <Form.Item name="days" label="Valid for, days">
          <InputNumber min={1} max={365} />
        </Form.Item>
        <Form.Item name="password" label="Password">
          <Input.Password maxLength={200} placeholder="none" autoComplete="new-password" />
        </Form.Item>
        <Button type="primary" htmlType="submit" loading={make.isPending}>
          Create link
        </Button>
      </Form>
      {address && (
        <Alert
          className="pad"
          type="success"
          closable={{ onClose: () => setAddress("") }}
          title="Copy this link now. It is shown only once."
          description={<Input readOnly value={address} aria-label="Link" onFocus={(event) => event.target.select()} />}
        />
      )}
      {reviews.data?.length === 0 && (
        <Nothing>No links yet. A change that a client refuses is turned off in the plan.</Nothing>
      )}
      {reviews.data?.map((review) => (
        <Review key={review.id} id={id} review={review} />
      ))}
    </section>
  );
}

function Review({ id, review }: { id: string; review: ReviewRow }) {
  const withdraw = useWithdraw(id);
  const answers = new Map(review.answers.map((answer) => [answer.topic, answer]));
  const done = review.topics.filter((topic) => answers.has(topic.id)).length;
  const order: Answer["kind"][] = ["refuse", "ask", "accept"];
  const rows = review.topics
    .flatMap((topic) => {
      const answer = answers.get(topic.id);
      return answer ? [{ topic, answer }] : [];
    })
    .sort((a, b) => order.indexOf(a.answer.kind) - order.indexOf(b.answer.kind));
  return (
    <article className="pad">
      <h2>
        {review.name || `Link of ${moment(review.made)}`}{" "}
        <small className="soft">
          {review.state === "open" ? `open until ${moment(review.until)}` : review.state}
          {review.password && ", with a password"}
          {!review.shown && ", earlier run"}
        </small>
      </h2>
      <p>
        {done} of {review.topics.length} answered
        {review.opened ? `, first opened ${moment(review.opened)}` : ", not opened yet"}
        {review.state === "open" && (
          <Popconfirm
            title="Withdraw this link?"
            description="The link stops working. Answers are kept."
            okText="Withdraw link"
            cancelText="Keep"
            onConfirm={() => withdraw.mutate(review.id)}
          >
            <Button size="small" type="link" loading={withdraw.isPending}>
              Withdraw link
            </Button>
          </Popconfirm>
        )}
      </p>
      {rows.length > 0 && (
        <table className="ledger">
          <thead>
            <tr>
              <th>Change</th>
              <th>Answer</th>
              <th className="n">Saves</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(({ topic, answer }) => (
              <tr key={topic.id}>
                <td>{topic.title}</td>
                <td>
                  <b>
                    {answer.who || "Somebody"} {SAID[answer.kind]}
                  </b>{" "}
                  {answer.word && answer.kind !== "accept" && `“${answer.word}” `}
                  <small className="soft">{moment(answer.at)}</small>
                </td>
                <td className="n">{kB(topic.bytes)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </article>
  );
}
