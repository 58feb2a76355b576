import { useState } from "react";

const SETTING = "unladen.by-itself";
const PAUSE = 12_000; // ms without an edit

/** Whether an edited plan is carried out by itself after a pause, and how long that is, in ms. */
export function useByItself() {
  const [on, setOn] = useState(() => localStorage.getItem(SETTING) !== "off");
  const set = (wanted: boolean) => {
    localStorage.setItem(SETTING, wanted ? "on" : "off");
    setOn(wanted);
  };
  return { on, set, pause: PAUSE };
}
