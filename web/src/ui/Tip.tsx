import { type PointerEvent, useState } from "react";

interface Place {
  text: string;
  x: number;
  y: number;
}

/** Words beside the pointer for drawings whose parts are too many to have their own. `wordsOf` gets a part's number. */
export function useTip(wordsOf: (part: number) => string) {
  const [place, setPlace] = useState<Place | null>(null);
  const handlers = {
    onPointerMove(event: PointerEvent<SVGElement>) {
      const part = partOf(event.target);
      if (part === null) setPlace(null);
      else setPlace({ text: wordsOf(part), x: event.clientX, y: event.clientY });
    },
    onPointerLeave() {
      setPlace(null);
    },
  };
  const tip = place && (
    <div
      className="tip"
      style={{ left: Math.min(place.x + 14, innerWidth - 330), top: place.y + 16 }}
      aria-hidden="true"
    >
      {place.text}
    </div>
  );
  return { tip, handlers };
}

/** The number that a drawn part carries, or null beside all parts. */
export function partOf(target: EventTarget): number | null {
  const named = target instanceof Element ? target.getAttribute("data-part") : null;
  return named === null ? null : Number(named);
}
