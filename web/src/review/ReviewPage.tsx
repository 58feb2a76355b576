import { Alert, Button, Input, Segmented } from "antd";
import { useState } from "react";
import { useParams } from "react-router";
import type { Answer, ReviewSeen } from "../api/client";
import { useAnswer, useReviewSeen, useUnlock } from "../api/showing";
import { moment } from "../ui/format";
import { Waiting } from "../ui/Waiting";
import { Pages } from "./Pages";
import { TopicCard } from "./TopicCard";
import "./review.css";

/** What a client sees behind a link: pages before and after, and every change in words, to accept, refuse or ask about. */
export default function ReviewPage() {
  const { token = "" } = useParams();
  const review = useReviewSeen(token);
  if (review.error) {
    return (
      <main className="review">
        <h1>This review link does not work</h1>
        <p role="alert">{review.error.message}</p>
      </main>
    );
  }
  if (!review.data) return <Waiting />;
  return review.data.locked ? <Locked token={token} /> : <Opened token={token} review={review.data} />;
}

function Locked({ token }: { token: string }) {
  const unlock = useUnlock(token);
  const [password, setPassword] = useState("");
  return (
    <main className="review">
      <h1>Review</h1>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          unlock.mutate(password);
        }}
      >
        <p>
          <label htmlFor="password">Enter the password that came with the link.</label>
        </p>
        <p className="row">
          <Input.Password
            id="password"
            autoFocus
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
          <Button type="primary" htmlType="submit" loading={unlock.isPending} disabled={!password}>
            Open
          </Button>
        </p>
        {unlock.error && <p role="alert">{unlock.error.message}</p>}
      </form>
    </main>
  );
}

type Filter = "all" | "open";

function Opened({ token, review }: { token: string; review: ReviewSeen }) {
  const [who, setWho] = useState("");
  const [filter, setFilter] = useState<Filter>("all");
  const send = useAnswer(token);
  const answers = new Map<string, Answer>(review.answers.map((answer) => [answer.topic, answer]));
  const left = review.topics.filter((topic) => !answers.has(topic.id));
  const shown = filter === "open" ? left : review.topics;
  return (
    <main className="review">
      <header>
        {review.logo && <img src={review.logo} alt={review.sender || "Logo"} />}
        <div>
          <h1>{review.site}, made lighter</h1>
          {review.sender && <p className="soft">by {review.sender}</p>}
        </div>
      </header>
      {review.words.split("\n").map((words, i) => words.trim() && <p key={i}>{words}</p>)}
      <p>
        Your site loads fewer bytes and looks the same. Compare the pages before and after, then accept or refuse each
        change. {review.until && `Open until ${moment(review.until)}.`}
      </p>
      <Pages token={token} shots={review.shots} />
      <section aria-labelledby="changes">
        <div className="review-head">
          <h2 id="changes">The changes</h2>
          <Segmented<Filter>
            size="small"
            value={filter}
            onChange={setFilter}
            options={[
              { value: "all", label: `All ${review.topics.length}` },
              { value: "open", label: `Unanswered ${left.length}` },
            ]}
          />
        </div>
        <p>
          <label>
            Your name (shown with your answers){" "}
            <Input value={who} maxLength={100} onChange={(event) => setWho(event.target.value)} className="who" />
          </label>
        </p>
        {send.error && <Alert type="error" title={send.error.message} />}
        {shown.map((topic) => (
          <TopicCard
            key={topic.id}
            token={token}
            topic={topic}
            pictures={review.pictures}
            answer={answers.get(topic.id)}
            sending={send.isPending && send.variables?.topic === topic.id}
            onAnswer={(kind, word) => send.mutate({ topic: topic.id, kind, word, who })}
          />
        ))}
      </section>
      <footer role="status">
        {left.length > 0 ? (
          <span>
            {review.topics.length - left.length} of {review.topics.length} answered
          </span>
        ) : (
          <b>All changes answered. Thank you. {review.sender || "The sender"} sees your answers.</b>
        )}
        {left.length > 1 && (
          <Button
            loading={send.isPending}
            onClick={() => {
              void (async () => {
                for (const topic of left) await send.mutateAsync({ topic: topic.id, kind: "accept", word: "", who });
              })().catch(() => undefined);
            }}
          >
            Accept the other {left.length}
          </Button>
        )}
      </footer>
    </main>
  );
}
