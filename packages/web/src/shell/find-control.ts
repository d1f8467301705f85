import type { CataloguedControl } from "../catalog.ts";
import { goToStation } from "../bench/go.ts";
import { rememberOpen } from "../controls/sheet-memory.ts";

/** How long a sheet may take to show a control. */
const PATIENCE_MS = 3000;
const LOOK_MS = 60;

/** Goes to a control: its station, its page, its group unfolded, and the control itself in focus. */
export function goToControl({ station, name, group, reveal }: CataloguedControl): void {
  goToStation(station);
  rememberOpen(group, true);
  reveal?.();
  const until = Date.now() + PATIENCE_MS;
  const look = () => {
    const sheet = document.querySelector<HTMLElement>(`main[aria-label="${station} sheet"]`);
    const control = sheet && (find(sheet, name) ?? (Date.now() > until ? find(sheet, group) : null));
    if (control) focus(control);
    else if (Date.now() < until) setTimeout(look, LOOK_MS);
  };
  setTimeout(look, LOOK_MS);
}

function find(sheet: HTMLElement, name: string): HTMLElement | null {
  return sheet.querySelector<HTMLElement>(`[data-find="${CSS.escape(name)}"]`);
}

function focus(control: HTMLElement): void {
  const inside = control.matches("section") ? control.querySelector<HTMLElement>("button, input, [tabindex]") : control;
  (inside ?? control).focus({ preventScroll: true });
  control.scrollIntoView({ block: "center" });
}
