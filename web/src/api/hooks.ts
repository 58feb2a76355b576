import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Bench, type Choice, client, type Effort, type EmbedWish, type ImageSettings, type Job, type Rule, type Session, told, type WalkOrders, type WeighMore } from "./client";

const POLL = 1000;

const at = (site_id: string) => ({ params: { path: { site_id } } });

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

export function useBench(id: string) {
  return useQuery({
    queryKey: ["bench", id],
    queryFn: () => told(client.GET("/api/sites/{site_id}", at(id))),
    refetchInterval: (query) => (isActive(query.state.data?.job) ? POLL : false),
  });
}

const ofWeighIn = (site_id: string, weigh_in_id: string) => ({ params: { path: { site_id, weigh_in_id } } });

/** All of one weigh-in; `stamp` changes when what is said of it may have changed. */
export function useDetail(id: string, weighIn: string | undefined, stamp: string) {
  return useQuery({
    queryKey: ["weigh-in", id, weighIn, stamp],
    queryFn: () => told(client.GET("/api/sites/{site_id}/weigh-ins/{weigh_in_id}", ofWeighIn(id, weighIn ?? ""))),
    enabled: weighIn !== undefined,
    staleTime: Infinity,
  });
}

export function useHeaders(id: string, weighIn: string, position: number | null) {
  return useQuery({
    queryKey: ["headers", id, weighIn, position],
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/weigh-ins/{weigh_in_id}/requests/{position}", {
          params: { path: { site_id: id, weigh_in_id: weighIn, position: position ?? 0 } },
        }),
      ),
    enabled: position !== null,
    staleTime: Infinity,
  });
}

export function useHistory(id: string, page: string, stamp: string) {
  return useQuery({
    queryKey: ["history", id, page, stamp],
    queryFn: () => told(client.GET("/api/sites/{site_id}/weigh-ins", { params: { path: { site_id: id }, query: { page } } })),
    enabled: page !== "",
  });
}

export function useComparison(id: string, before: string | undefined, after: string | undefined) {
  return useQuery({
    queryKey: ["comparison", id, before, after],
    queryFn: () =>
      told(client.GET("/api/sites/{site_id}/compare", { params: { path: { site_id: id }, query: { before: before ?? "", after: after ?? "" } } })),
    enabled: Boolean(before && after),
  });
}

export function useEditWeighIn(id: string) {
  const cache = useQueryClient();
  const onSuccess = () => Promise.all([cache.invalidateQueries({ queryKey: ["history", id] }), cache.invalidateQueries({ queryKey: ["bench", id] })]);
  const edit = useMutation({
    mutationFn: ({ key, ...body }: { key: string; name?: string; pinned?: boolean }) =>
      told(client.PATCH("/api/sites/{site_id}/weigh-ins/{weigh_in_id}", { ...ofWeighIn(id, key), body })),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (key: string) => told(client.DELETE("/api/sites/{site_id}/weigh-ins/{weigh_in_id}", ofWeighIn(id, key))),
    onSuccess,
  });
  return { edit, remove, error: edit.error ?? remove.error };
}

export function useUseMap(id: string, stamp: string) {
  return useQuery({ queryKey: ["use", id, stamp], queryFn: () => told(client.GET("/api/sites/{site_id}/use", at(id))) });
}

export function useUsedText(id: string, url: string | null, page: string, stamp: string) {
  return useQuery({
    queryKey: ["used text", id, url, page, stamp],
    queryFn: () => told(client.GET("/api/sites/{site_id}/use/text", { params: { path: { site_id: id }, query: { url: url ?? "", page } } })),
    enabled: url !== null,
    staleTime: Infinity,
  });
}

export function useWalkOrders(id: string, page: string) {
  const cache = useQueryClient();
  const key = ["walk orders", id, page];
  const orders = useQuery({
    queryKey: key,
    queryFn: () => told(client.GET("/api/sites/{site_id}/walk", { params: { path: { site_id: id }, query: { page } } })),
    enabled: page !== "",
  });
  const save = useMutation({
    mutationFn: (body: WalkOrders) => told(client.PUT("/api/sites/{site_id}/walk", { ...at(id), body })),
    onSuccess: (body) => { cache.setQueryData(key, body); },
  });
  return { orders, save };
}

/** All images of a site; `stamp` changes with the plan and with what was tried out. */
export function useImages(id: string, stamp: string) {
  return useQuery({
    queryKey: ["images", id, stamp],
    queryFn: () => told(client.GET("/api/sites/{site_id}/images", at(id))),
    placeholderData: (old) => old,
  });
}

export interface StepOf {
  path: string;
  format: "WEBP" | "AVIF" | "JPEG" | "PNG";
  width: number;
  quality: number;
}

export function stepKey(id: string, step: StepOf) {
  return ["step", id, step.path, step.format, step.width, step.quality];
}

/** One encode of one image, tried out when asked for. */
export function fetchStep(id: string, query: StepOf) {
  return told(client.GET("/api/sites/{site_id}/images/step", { params: { path: { site_id: id }, query } }));
}

export function useVisit() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: { address: string; depth: number; pages: number }) => told(client.POST("/api/sites/visit", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sites"] }),
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
  const weighMore = useMutation({
    mutationFn: (body: WeighMore) => told(client.POST("/api/sites/{site_id}/weigh-ins", { ...path, body })),
    onSettled,
  });
  const walk = useMutation({
    mutationFn: (pages: string[]) => told(client.POST("/api/sites/{site_id}/walk", { ...path, body: { pages } })),
    onSettled,
  });
  const setRules = useMutation({
    mutationFn: (rules: Rule[]) => told(client.PUT("/api/sites/{site_id}/rules", { ...path, body: { rules } })),
    onSettled,
  });
  const choose = useMutation({
    mutationFn: (body: Choice) => told(client.POST("/api/sites/{site_id}/images/choose", { ...path, body })),
    onSettled: () => Promise.all([onSettled(), cache.invalidateQueries({ queryKey: ["images", bench.id] })]),
  });
  const wish = useMutation({
    mutationFn: (body: EmbedWish) => told(client.POST("/api/sites/{site_id}/embeds/choose", { ...path, body })),
    onSettled,
  });
  const setImages = useMutation({
    mutationFn: (body: ImageSettings) => told(client.POST("/api/sites/{site_id}/images/settings", { ...path, body })),
    onSettled,
  });
  const carryOut = useMutation({ mutationFn: () => told(client.POST("/api/sites/{site_id}/plan/carry-out", path)), onSettled });
  const steer = useMutation({
    mutationFn: ({ job, ...body }: { job: string; paused: boolean; easy: boolean }) =>
      told(client.POST("/api/jobs/{job_id}/steer", { params: { path: { job_id: job } }, body })),
    onSettled,
  });
  const allow = useMutation({
    mutationFn: (allowance: number) => told(client.PATCH("/api/sites/{site_id}", { ...path, body: { allowance } })),
    onSettled,
  });
  const cancel = useMutation({
    mutationFn: (job_id: string) => told(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id } } })),
    onSettled,
  });
  const all = { lighten, edit, weigh, weighMore, walk, setRules, choose, wish, setImages, carryOut, steer, allow, cancel };
  const error = Object.values(all).find((mutation) => mutation.error)?.error ?? null;
  return { ...all, error, refresh: () => { void onSettled(); } };
}
