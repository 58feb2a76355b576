import { keepPreviousData, type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { jobKey, planKey } from "./bench";
import { at, ofSite } from "./cache";
import { type BesideOf, client, type Command, type Edited, type Plan, Refused, sendFile, told } from "./client";

const MOST_TRIES = 3;
const STALE = 409;

/** The plan as last read, or read now; throws `Refused` where there is none. */
async function planOf(cache: QueryClient, id: string, fresh: boolean): Promise<Plan> {
  const options = { queryKey: planKey(id), queryFn: () => told(client.GET("/api/sites/{site_id}/plan", at(id))) };
  const known = fresh ? await cache.fetchQuery({ ...options, staleTime: 0 }) : await cache.ensureQueryData(options);
  if (!known) throw new Refused(STALE, "The site is not weighed yet. Weigh it first.");
  return known;
}

/** The plan after an edit, of which only what differs is told. */
function after(plan: Plan, { changes, order, ...head }: Edited): Plan {
  const known = new Map(plan.changes.map((change) => [change.id, change]));
  for (const change of changes) known.set(change.id, change);
  const ids = order ?? plan.changes.map((change) => change.id);
  return { ...head, changes: ids.flatMap((id) => known.get(id) ?? []) };
}

/** Say something of the plan as it is; where it was changed meanwhile, it is loaded and the same is said again. */
async function onTheLatest(cache: QueryClient, id: string, say: (plan: Plan) => Promise<Edited>): Promise<Plan> {
  for (let tries = 1; ; tries++) {
    const plan = await planOf(cache, id, tries > 1);
    try {
      const next = after(plan, await say(plan));
      cache.setQueryData(planKey(id), next);
      return next;
    } catch (error) {
      if (!(error instanceof Refused && error.status === STALE && tries < MOST_TRIES)) throw error;
    }
  }
}

const edited = (id: string, commands: Command[]) => (plan: Plan) =>
  told(client.POST("/api/sites/{site_id}/plan/commands", { ...at(id), body: { version: plan.version, commands } }));

async function carriedOut(cache: QueryClient, id: string, plan: Plan, again: string[], page: string): Promise<void> {
  const started = await told(
    client.POST("/api/sites/{site_id}/runs", { ...at(id), body: { version: plan.version, again, page } }),
  );
  if (started.job) cache.setQueryData(jobKey(id), started.job);
  else await cache.invalidateQueries({ queryKey: planKey(id) }); // whether it differs depends on the run that is shown
}

function usePlanAction<T>(id: string, name: string, act: (cache: QueryClient, body: T) => Promise<unknown>) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, name),
    mutationFn: (body: T) => act(cache, body),
    // The plan itself is told by the answer.
    onSuccess: () =>
      cache.invalidateQueries({ queryKey: ofSite(id), predicate: ({ queryKey }) => queryKey[2] !== "plan" }),
    onError: () => cache.invalidateQueries({ queryKey: ofSite(id) }),
  });
}

/** Edit the plan; nothing is built. */
export const useEdit = (id: string) =>
  usePlanAction(id, "edit", (cache, commands: Command[]) => onTheLatest(cache, id, edited(id, commands)));

/** Edit the plan and carry it out; `again` are changes that an earlier run left out. The page in view is checked first. */
export function useTry(id: string) {
  const page = usePage();
  return usePlanAction(
    id,
    "try",
    async (cache, { commands, again = [] }: { commands: Command[]; again?: string[] }) => {
      const plan = commands.length
        ? await onTheLatest(cache, id, edited(id, commands))
        : await planOf(cache, id, false);
      await carriedOut(cache, id, plan, again, page);
    },
  );
}

/** The page in view as the address names it; of the usual one it says nothing. */
function usePage(): string {
  const [search] = useSearchParams();
  return search.get("page") ?? "";
}

/** Treat images as chosen, and have the files tried out that are not known yet. */
export const useChooseImages = (id: string) =>
  usePlanAction(id, "images", async (cache, command: Command) => {
    await onTheLatest(cache, id, edited(id, [command]));
    const job = await told(client.POST("/api/sites/{site_id}/images/encode", at(id)));
    if (job) cache.setQueryData(jobKey(id), job);
  });

/** A picture of the user's own for an embed. */
export const useOwnPicture = (id: string) =>
  usePlanAction(id, "picture", (cache, { change, file }: { change: string; file: File }) =>
    onTheLatest(cache, id, ({ version }) =>
      sendFile<Edited>(`/api/sites/${id}/plan/picture`, "picture", file, { id: change, version }),
    ),
  );

/** Another plan: from a file, or a version of this one. */
export type Other = { file: File } | { version: string; name: string };

export const nameOfOther = (other: Other) => ("file" in other ? other.file.name : other.name);

/** How another plan differs from the plan as it is; nothing is changed by asking. */
export function useBeside(id: string, stamp: string, other: Other) {
  const key = "file" in other ? [other.file.name, other.file.size, other.file.lastModified].join(" ") : other.version;
  return useQuery({
    queryKey: ofSite(id, "beside", `${stamp} ${key}`),
    queryFn: () =>
      "file" in other
        ? sendFile<BesideOf>(`/api/sites/${id}/plan/look`, "document", other.file, {})
        : told(
            client.GET("/api/sites/{site_id}/plan/versions/{version_id}/beside", {
              params: { path: { site_id: id, version_id: other.version } },
            }),
          ),
    retry: false,
    gcTime: 0,
  });
}

/** A plan from a file takes the place of this one, or gives what it says in some places. */
export const useLoadPlan = (id: string) =>
  usePlanAction(id, "load", (cache, { file, take }: { file: File; take?: string[] }) =>
    onTheLatest(cache, id, ({ version }) =>
      sendFile<Edited>(`/api/sites/${id}/plan/document`, "document", file, {
        version,
        ...(take && { take: JSON.stringify(take) }),
      }),
    ),
  );

/** Take from another version what it says in some places. */
export const useMerge = (id: string) =>
  usePlanAction(id, "merge", (cache, { other, take }: { other: string; take: string[] }) =>
    onTheLatest(cache, id, ({ version }) =>
      told(client.POST("/api/sites/{site_id}/plan/merge", { ...at(id), body: { version, other, take } })),
    ),
  );

/** Undo, redo, or any version of the plan. */
export const useGoTo = (id: string) =>
  usePlanAction(id, "go", (cache, to: string) =>
    onTheLatest(cache, id, ({ version }) =>
      told(client.POST("/api/sites/{site_id}/plan/go", { ...at(id), body: { version, to } })),
    ),
  );

/** Where live copies of the site are; with a change named also of the plan with and without it. */
export function useCopies(id: string, change: string) {
  return useQuery({
    queryKey: ofSite(id, "copies", change),
    queryFn: () =>
      told(client.GET("/api/sites/{site_id}/plan/copies", { params: { path: { site_id: id }, query: { change } } })),
  });
}

/** What a trim of style sheets takes out; `words` narrow it down. */
export function useRules(id: string, change: string, words: string, stamp: string) {
  return useQuery({
    queryKey: ofSite(id, "rules", change, words, stamp),
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/plan/rules", {
          params: { path: { site_id: id }, query: { id: change, words } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** What a trim of style sheets leaves where it is, and what keeps it. */
export function useStaying(id: string, change: string, words: string, stamp: string) {
  return useQuery({
    queryKey: ofSite(id, "staying", change, words, stamp),
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/plan/staying", {
          params: { path: { site_id: id }, query: { id: change, words } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

export function useVersions(id: string, open: boolean, stamp: string) {
  return useQuery({
    queryKey: ofSite(id, "versions", stamp),
    queryFn: () => told(client.GET("/api/sites/{site_id}/plan/versions", at(id))),
    enabled: open,
  });
}

export const useNameVersion = (id: string) =>
  usePlanAction(id, "name", (_cache, { version_id, name }: { version_id: string; name: string }) =>
    told(
      client.PATCH("/api/sites/{site_id}/plan/versions/{version_id}", {
        params: { path: { site_id: id, version_id } },
        body: { name },
      }),
    ),
  );

/** What of the shown run's savings was brought by whom. */
export function useBrought(id: string, run: string, enabled: boolean) {
  return useQuery({
    queryKey: ofSite(id, "brought", run),
    queryFn: () => told(client.GET("/api/sites/{site_id}/brought", at(id))),
    enabled,
  });
}

/** What came and went from a run to the one that is shown. */
export function useSince(site_id: string, run_id: string, shown: string) {
  return useQuery({
    queryKey: ofSite(site_id, "since", run_id, shown),
    queryFn: () =>
      told(client.GET("/api/sites/{site_id}/runs/{run_id}/since", { params: { path: { site_id, run_id } } })),
  });
}

export function useRuns(id: string, stamp: string) {
  return useQuery({
    queryKey: ofSite(id, "runs", stamp),
    queryFn: () => told(client.GET("/api/sites/{site_id}/runs", at(id))),
  });
}
