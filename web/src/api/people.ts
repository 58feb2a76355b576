import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { at } from "./cache";
import { client, told } from "./client";

export type Role = "look" | "edit";

export function usePeople(id: string) {
  return useQuery({
    queryKey: ["people", id],
    queryFn: () => told(client.GET("/api/sites/{site_id}/people", at(id))),
  });
}

/** What was done with a site, the latest first. */
export function useDone(id: string) {
  return useQuery({
    queryKey: ["done", id],
    queryFn: () => told(client.GET("/api/sites/{site_id}/done", at(id))),
  });
}

const person = (id: string, username: string) => ({ params: { path: { site_id: id, username } } });

function useChanged(id: string) {
  const cache = useQueryClient();
  return () => {
    void cache.invalidateQueries({ queryKey: ["people", id] });
    void cache.invalidateQueries({ queryKey: ["done", id] });
    void cache.invalidateQueries({ queryKey: ["sites"] });
  };
}

export function useLetIn(id: string) {
  const onSettled = useChanged(id);
  return useMutation({
    mutationFn: ({ username, role }: { username: string; role: Role }) =>
      told(client.PUT("/api/sites/{site_id}/people/{username}", { ...person(id, username), body: { role } })),
    onSettled,
  });
}

export function useShutOut(id: string) {
  const onSettled = useChanged(id);
  return useMutation({
    mutationFn: (username: string) =>
      told(client.DELETE("/api/sites/{site_id}/people/{username}", person(id, username))),
    onSettled,
  });
}
