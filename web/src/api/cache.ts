import { MutationCache, QueryClient, useIsMutating, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Job, Refused } from "./client";

/** Keys of all that is read of a site, so that one word renews it. */
export const ofSite = (id: string, ...what: unknown[]) => ["site", id, ...what];
const problemKey = (id: string) => ["problem", id];

export const at = (site_id: string) => ({ params: { path: { site_id } } });

export function isActive(job: Job | null | undefined): boolean {
  return job?.state === "waiting" || job?.state === "running";
}

/** Whether it keeps all else from being done; what runs aside steps back for it. */
export function isBusy(job: Job | null | undefined): boolean {
  return isActive(job) && !job?.aside;
}

/** A site that a mutation is about: actions on a site have the keys ["site", id, action]. */
function siteOf(key: readonly unknown[] | undefined): string {
  return key?.[0] === "site" && typeof key[1] === "string" ? key[1] : "";
}

/** What one action said went wrong is gone with the next one. */
export const cache: QueryClient = new QueryClient({
  mutationCache: new MutationCache({
    onMutate: (_variables, mutation) => {
      const site = siteOf(mutation.options.mutationKey);
      if (site) cache.setQueryData(problemKey(site), "");
    },
    onError: (error, _variables, _context, mutation) => {
      const site = siteOf(mutation.options.mutationKey);
      if (site) cache.setQueryData(problemKey(site), error.message);
    },
  }),
  defaultOptions: {
    queries: {
      retry: (failures, error) => failures < 2 && !(error instanceof Refused && error.status < 500),
      refetchOnWindowFocus: false,
    },
  },
});

/** What the last action on a site said went wrong, and a way to put it aside. */
export function useProblem(id: string): [string, () => void] {
  const queries = useQueryClient();
  const { data } = useQuery({ queryKey: problemKey(id), queryFn: () => "", staleTime: Infinity });
  return [data ?? "", () => queries.setQueryData(problemKey(id), "")];
}

/** Whether an action on a site is on its way to the server. */
export function useSending(id: string): boolean {
  return useIsMutating({ mutationKey: ofSite(id) }) > 0;
}
