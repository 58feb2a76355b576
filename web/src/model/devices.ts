/** Presets by name. */
export const DEVICES: Record<string, string> = {
  phone: "Phone 390 at 2x",
  tablet: "Tablet 820 at 2x",
  desktop: "Desktop 1280 at 1x",
};
/** A viewport of the user's own: width, height in CSS px, density. */
export const OWN_DEVICE = /^(\d+)x(\d+)@([\d.]+)$/;

/** A device as people read it: a preset, or a viewport such as 1440x900@1. */
export function deviceLabel(name: string): string {
  const own = OWN_DEVICE.exec(name);
  return DEVICES[name] ?? (own ? `Viewport ${own[1]}x${own[2]} at ${own[3]}x` : name);
}
