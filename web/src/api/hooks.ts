import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Bench, client, type Effort, type Job, type Session, told } from "./client";

const POLL = 1000;

export function isActive(job: Job | null | undefined): boolean {
  return job?.state === "waiting" || job?.state === "running";
}

export function useSession() {
  return useQuery({ queryKey: ["session"], queryFn: () => told(client.GET("/api/session")), staleTime: Infinity });
}

/** Another person sees nothing of what the last one read. */
function forgetAllBut(cache: QueryClient, session: Session) {
  cache.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
  cache.setQueryData(["session"], session);
}

export function useSignIn() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: { username: string; password: string }) => told(client.POST("/api/session", { body })),
    onSuccess: (session: Session) => {
      forgetAllBut(cache, session);
    },
  });
}

export function useSignOut() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => told(client.DELETE("/api/session")),
    onSuccess: (session: Session) => {
      forgetAllBut(cache, session);
    },
  });
}

export function useSites() {
  return useQuery({
    queryKey: ["sites"],
    queryFn: () => told(client.GET("/api/sites")),
    refetchInterval: (query) => (query.state.data?.some((site) => isActive(site.job)) ? POLL : false),
  });
}

const at = (site_id: string) => ({ params: { path: { site_id } } });

export function useBench(id: string) {
  return useQuery({
    queryKey: ["bench", id],
    queryFn: () => told(client.GET("/api/sites/{site_id}", at(id))),
    refetchInterval: (query) => (isActive(query.state.data?.job) ? POLL : false),
  });
}

export function useRequests(id: string, page: string, device: string, stamp: string) {
  return useQuery({
    queryKey: ["requests", id, page, device, stamp],
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/requests", {
          params: { path: { site_id: id }, query: { page, device } },
        }),
      ),
    enabled: page !== "",
  });
}

export function useDelete() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => told(client.DELETE("/api/sites/{site_id}", at(id))),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sites"] }),
  });
}

/** All that starts or stops work on a site; the bench is read again after each. */
export function useWork(bench: Bench) {
  const cache = useQueryClient();
  const onSettled = () => cache.invalidateQueries({ queryKey: ["bench", bench.id] });
  const path = at(bench.id);
  const lighten = useMutation({
    mutationFn: (effort: Effort) => told(client.POST("/api/sites/{site_id}/lighten", { ...path, body: { effort } })),
    onSettled,
  });
  const edit = useMutation({
    mutationFn: (body: { changes?: { id: string; on: boolean; insist?: boolean }[]; keep_files?: string[] }) =>
      told(client.PATCH("/api/sites/{site_id}/plan", { ...path, body })),
    onSettled,
  });
  const weigh = useMutation({ mutationFn: () => told(client.POST("/api/sites/{site_id}/weigh", path)), onSettled });
  const allow = useMutation({
    mutationFn: (allowance: number) => told(client.PATCH("/api/sites/{site_id}", { ...path, body: { allowance } })),
    onSettled,
  });
  const cancel = useMutation({
    mutationFn: (job_id: string) => told(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id } } })),
    onSettled,
  });
  const error = lighten.error ?? edit.error ?? weigh.error ?? allow.error ?? cancel.error;
  return { lighten, edit, weigh, allow, cancel, error };
}
