import { Button, Input } from "antd";
import { useState } from "react";
import type { Answer, Topic } from "../api/client";
import { count, kB, moment, namely } from "../ui/format";

type Kind = Answer["kind"];
const SAID: Record<Kind, string> = { accept: "accepted", refuse: "refused", ask: "asked" };

interface Props {
  token: string;
  topic: Topic;
  pictures: string[];
  answer: Answer | undefined;
  sending: boolean;
  onAnswer: (kind: Kind, word: string) => void;
}

/** A change in words, with its picture and what it saves; accept it, refuse it with a word, or ask. */
export function TopicCard({ token, topic, pictures, answer, sending, onAnswer }: Props) {
  const [asking, setAsking] = useState<Kind | null>(null);
  const [word, setWord] = useState("");
  const [first = ""] = topic.targets;
  const more = topic.targets.length > 1;
  const button = (kind: Kind) => (answer?.kind === kind ? "primary" : "default");
  function choose(kind: Kind) {
    if (kind === "accept") onAnswer(kind, "");
    setAsking(kind === "accept" ? null : kind);
  }
  return (
    <article className={answer ? "topic answered" : "topic"}>
      {pictures.includes(first) && !more && (
        <img src={`/api/review/${token}/images?path=${encodeURIComponent(first)}`} alt="" loading="lazy" />
      )}
      <div>
        <h3>{topic.title}</h3>
        <p>{topic.why}</p>
        <p className="soft">
          {topic.bytes > 0
            ? `Saves ${kB(topic.bytes)} over all pages and devices.`
            : "Keeps the page from jumping, or makes later visits lighter."}
          {more && ` ${count(topic.targets.length)} files: ${namely(topic.targets)}`}
        </p>
        <div className="row wrap">
          <Button type={button("accept")} loading={sending && !asking} onClick={() => choose("accept")}>
            Accept
          </Button>
          <Button type={button("refuse")} onClick={() => choose("refuse")} aria-expanded={asking === "refuse"}>
            Refuse
          </Button>
          <Button type={button("ask")} onClick={() => choose("ask")} aria-expanded={asking === "ask"}>
            Ask a question
          </Button>
          {answer && (
            <span className="soft said">
              {answer.who || "You"} {SAID[answer.kind]} {moment(answer.at)}
              {answer.word && `: ${answer.word}`}
            </span>
          )}
        </div>
        {asking && (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              onAnswer(asking, word);
              setAsking(null);
              setWord("");
            }}
          >
            <label>
              {asking === "refuse" ? "Why do you refuse it?" : "Your question"}
              <Input.TextArea
                autoFocus
                rows={2}
                maxLength={2000}
                value={word}
                onChange={(e) => setWord(e.target.value)}
              />
            </label>
            <Button type="primary" htmlType="submit" disabled={!word.trim()} loading={sending}>
              Send answer
            </Button>
          </form>
        )}
      </div>
    </article>
  );
}
