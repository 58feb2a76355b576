import { Button, Popover } from "antd";
import { type ReactNode, useLayoutEffect, useRef } from "react";
import { Link } from "react-router";
import type { Session } from "../api/client";
import { useSignOut } from "../api/session";

interface Props {
  session?: Session;
  path?: ReactNode;
  trail?: ReactNode;
  conditions?: ReactNode;
}

/** The one bar on top: mark, path, trail of stages, conditions, account. */
export function Bar({ session, path, trail, conditions }: Props) {
  const signOut = useSignOut();
  const bar = useOneLine();
  return (
    <header className="bar" ref={bar}>
      <Link to="/" className="mark">
        <img src="/mark.svg" alt="" width="23" height="26" />
        <span>Unladen Mule</span>
      </Link>
      {path && (
        <nav className="path" aria-label="Site and page">
          {path}
        </nav>
      )}
      {trail}
      <div className="bar-end">
        {conditions}
        {session?.username && (
          <Popover
            trigger="click"
            placement="bottomRight"
            content={
              <div className="account">
                <p>
                  Signed in as <b>{session.username}</b>
                </p>
                {session.admin && (
                  <p>
                    <Link to="/users">Users and audit log</Link>
                  </p>
                )}
                <Button onClick={() => signOut.mutate()}>Sign out</Button>
              </div>
            }
          >
            <button type="button" className="me" aria-label={`Account of ${session.username}`}>
              {session.username.slice(0, 2).toUpperCase()}
            </button>
          </Popover>
        )}
      </div>
    </header>
  );
}

// What a bar without room leaves out: first the conditions behind the device, then the figures of the stages.
const STEPS = ["without-tail", "without-figures"];

/** Hides the small words of a bar as long as it has no room for them. */
function useOneLine() {
  const bar = useRef<HTMLElement>(null);
  const fit = () => {
    const element = bar.current;
    if (!element) return;
    const isCut = () =>
      [element, ...element.querySelectorAll(".path, .path-site, .chip")].some(
        (part) => part.scrollWidth > part.clientWidth,
      );
    element.classList.remove(...STEPS);
    for (const step of STEPS) if (isCut()) element.classList.add(step);
  };
  useLayoutEffect(fit);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(fit);
    if (bar.current) observer.observe(bar.current);
    return () => observer.disconnect();
  }, []);
  return bar;
}
