import { type QueryClient, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { at, isActive, ofSite } from "./cache";
import { type Bench, client, type Run, told } from "./client";

const POLL = 1000;
const SELDOM = 4000;
export const jobKey = (id: string) => ofSite(id, "job");
export const planKey = (id: string) => ofSite(id, "plan");

function isOpen(cache: QueryClient, id: string): boolean {
  const run = cache.getQueryData<Run | null>(ofSite(id, "run"));
  return run?.outcomes.some((outcome) => outcome.open) ?? false;
}

/** The work under way. Only this is asked for again and again; all else is read once more when it has ended. */
function useJob(id: string) {
  const cache = useQueryClient();
  const job = useQuery({
    queryKey: jobKey(id),
    queryFn: () => told(client.GET("/api/sites/{site_id}/job", at(id))),
    // Where something is to be looked at closer, that begins by itself a moment later.
    refetchInterval: (query) => (isActive(query.state.data) ? POLL : isOpen(cache, id) ? SELDOM : false),
  });
  const active = isActive(job.data);
  const running = active ? (job.data?.id ?? "") : "";
  const was = useRef(running);
  useEffect(() => {
    // What a job stores is there before it ends, so whatever is asked for now is new. The next one may have begun by then.
    if (was.current && was.current !== running) {
      void cache.invalidateQueries({ queryKey: ofSite(id), predicate: (query) => query.queryKey[2] !== "job" });
    }
    was.current = running;
  }, [running, cache, id]);
  // A site that is weighed for the first time shows each page as soon as it is there.
  const { stage = "", done = 0 } = job.data ?? {};
  useEffect(() => {
    if (active && stage === "weigh" && done > 0) {
      void cache.invalidateQueries({ queryKey: ofSite(id, "itself") });
      void cache.invalidateQueries({ queryKey: ofSite(id, "weigh-ins") });
    }
  }, [active, stage, done, cache, id]);
  return job;
}

/** The words of the core; they stay as they are. */
export function useWords() {
  return useQuery({ queryKey: ["words"], queryFn: () => told(client.GET("/api/words")), staleTime: Infinity });
}

/** Everything that the screens of a site show; each part is asked for on its own and comes only if it has changed. */
export function useBench(id: string) {
  const job = useJob(id);
  const words = useWords();
  const [site, weighIns, findings, plan, run, worth] = useQueries({
    queries: [
      { queryKey: ofSite(id, "itself"), queryFn: () => told(client.GET("/api/sites/{site_id}", at(id))) },
      { queryKey: ofSite(id, "weigh-ins"), queryFn: () => told(client.GET("/api/sites/{site_id}/weigh-ins", at(id))) },
      { queryKey: ofSite(id, "findings"), queryFn: () => told(client.GET("/api/sites/{site_id}/findings", at(id))) },
      { queryKey: planKey(id), queryFn: () => told(client.GET("/api/sites/{site_id}/plan", at(id))) },
      { queryKey: ofSite(id, "run"), queryFn: () => told(client.GET("/api/sites/{site_id}/run", at(id))) },
      { queryKey: ofSite(id, "worth"), queryFn: () => told(client.GET("/api/sites/{site_id}/worth", at(id))) },
    ],
  });
  const all = [site, weighIns, findings, plan, run, worth, job, words];
  const error = all.find((query) => query.error && query.data === undefined)?.error ?? null;
  const again = () => all.forEach((query) => void query.refetch());
  let bench: Bench | undefined;
  if (
    site.data &&
    weighIns.data &&
    findings.data &&
    worth.data &&
    words.data &&
    all.every((query) => query.data !== undefined)
  ) {
    bench = {
      ...site.data,
      weigh_ins: weighIns.data.found,
      now: weighIns.data.now,
      pictures: weighIns.data.pictures,
      excess: findings.data.excess,
      surveyed: findings.data.surveyed ?? "",
      plan: plan.data ?? null,
      run: run.data ?? null,
      worth: worth.data,
      job: job.data ?? null,
      words: words.data,
    };
  }
  return { bench, error, again };
}
