/** Brings a control into sight and under the keys. */
import type { Sought } from "../model/goto";

/** What can be set or pressed. */
const CONTROLS = "input, select, button, [role=radiogroup], textarea";

/** The words that a control goes by. */
const wordsOf = (element: HTMLElement): string =>
  element.getAttribute("aria-label") ??
  (element instanceof HTMLInputElement && element.labels?.length ? element.labels[0]!.textContent : element.textContent);

/** @returns whether the control itself is there; else its group is shown */
export function reveal({ within, label }: Sought): boolean {
  const place = document.getElementById(within);
  if (!place) return false;
  const controls = [...place.querySelectorAll<HTMLElement>(CONTROLS)];
  const wanted =
    label === null ? undefined : (controls.find((c) => wordsOf(c).trim() === label) ?? controls.find((c) => wordsOf(c).includes(label)));
  const shown = wanted ?? place;
  const target =
    wanted?.getAttribute("role") === "radiogroup" ? wanted.querySelector<HTMLElement>("[tabindex='0']") : (wanted ?? controls[0]);
  shown.scrollIntoView({ block: wanted ? "center" : "start" });
  target?.focus({ preventScroll: true });
  // its row is marked for a moment
  const row = wanted?.closest<HTMLElement>("label, [title], li") ?? shown;
  if (!matchMedia("(prefers-reduced-motion: reduce)").matches)
    row.animate([{ background: "oklch(0.8 0.085 178 / 0.35)" }, { background: "transparent" }], { duration: 1500, easing: "ease-in" });
  return wanted !== undefined;
}
