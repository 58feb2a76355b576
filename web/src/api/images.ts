import { useQuery } from "@tanstack/react-query";
import { at, ofSite } from "./cache";
import { client, told } from "./client";

/** All images of a site. */
export function useImages(id: string) {
  return useQuery({
    queryKey: ofSite(id, "images"),
    queryFn: () => told(client.GET("/api/sites/{site_id}/images", at(id))),
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
