import { useMutation, useQueryClient } from "@tanstack/react-query";
import { jobKey } from "./bench";
import { at, ofSite } from "./cache";
import { client, type Effort, type ImageSettings, type Job, type Rule, told, type WeighMore } from "./client";

/** An action that starts or steers work on a site. What it answers is the job from then on. */
function useJobAction<T>(id: string, name: string, act: (body: T) => Promise<Job | null | undefined>) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, name),
    mutationFn: act,
    onSuccess: (job) => {
      if (job) cache.setQueryData(jobKey(id), job);
    },
    onSettled: () => cache.invalidateQueries({ queryKey: ofSite(id) }),
  });
}

export const useLighten = (id: string) =>
  useJobAction(id, "lighten", (body: { effort: Effort; preset?: string; page: string }) =>
    told(client.POST("/api/sites/{site_id}/lighten", { ...at(id), body })),
  );

export const useWeigh = (id: string) =>
  useJobAction(id, "weigh", () => told(client.POST("/api/sites/{site_id}/weigh", at(id))));

export const useWeighMore = (id: string) =>
  useJobAction(id, "weigh more", (body: WeighMore) =>
    told(client.POST("/api/sites/{site_id}/weigh-ins", { ...at(id), body })),
  );

export const useChoosePages = (id: string) =>
  useJobAction(id, "choose pages", (body: { chosen: string[]; most: number }) =>
    told(client.POST("/api/sites/{site_id}/pages", { ...at(id), body })),
  );

export const useWalk = (id: string) =>
  useJobAction(id, "walk", (pages: string[]) =>
    told(client.POST("/api/sites/{site_id}/walk", { ...at(id), body: { pages } })),
  );

export const useSetRules = (id: string) =>
  useJobAction(id, "rules", (rules: Rule[]) =>
    told(client.PUT("/api/sites/{site_id}/rules", { ...at(id), body: { rules } })),
  );

export const useSetImages = (id: string) =>
  useJobAction(id, "settings", (body: ImageSettings) =>
    told(client.POST("/api/sites/{site_id}/images/settings", { ...at(id), body })),
  );

export const useVisitAgain = (id: string) =>
  useJobAction(id, "visit again", (address: string) =>
    told(client.POST("/api/sites/{site_id}/visit-again", { ...at(id), body: { address } })),
  );

export const useWatchNow = (id: string) =>
  useJobAction(id, "watch now", () => told(client.POST("/api/sites/{site_id}/watch", at(id))));

export const useSteer = (id: string) =>
  useJobAction(id, "steer", ({ job, ...body }: { job: string; paused: boolean; easy: boolean }) =>
    told(client.POST("/api/jobs/{job_id}/steer", { params: { path: { job_id: job } }, body })),
  );

/** Take up work that was stopped. */
export const useGoOn = (id: string) =>
  useJobAction(id, "go on", (job: string) =>
    told(client.POST("/api/jobs/{job_id}/go-on", { params: { path: { job_id: job } } })),
  );

export const useCancel = (id: string) =>
  useJobAction(id, "cancel", (job_id: string) =>
    told(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id } } })),
  );

export function useAllow(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "allow"),
    mutationFn: (allowance: number) => told(client.PATCH("/api/sites/{site_id}", { ...at(id), body: { allowance } })),
    onSuccess: (site) => cache.setQueryData(ofSite(id, "itself"), site),
  });
}
