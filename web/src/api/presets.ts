import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { at, ofSite } from "./cache";
import { client, type Preset, told } from "./client";

const KEY = ["presets"];

/** Ready-made plans of one's own. */
export const usePresets = () => useQuery({ queryKey: KEY, queryFn: () => told(client.GET("/api/presets")) });

function usePresetAction<T>(mutationKey: unknown[], act: (body: T) => Promise<Preset[]>) {
  const cache = useQueryClient();
  return useMutation({ mutationKey, mutationFn: act, onSuccess: (presets) => cache.setQueryData(KEY, presets) });
}

/** Keep the way in which a site's plan treats it. */
export const useKeepPreset = (id: string) =>
  usePresetAction([...ofSite(id, "preset")], (name: string) =>
    told(client.POST("/api/sites/{site_id}/plan/preset", { ...at(id), body: { name } })),
  );

export const useDeletePreset = () =>
  usePresetAction(["forget preset"], (preset_id: string) =>
    told(client.DELETE("/api/presets/{preset_id}", { params: { path: { preset_id } } })),
  );
