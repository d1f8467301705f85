import type { SingleShape } from "@yelm/core";
import type { EditSession } from "../data/session/session.ts";
import { benchView } from "../picture/bench-view.ts";
import { notify } from "../shell/shell-view.ts";
import { withPart } from "./joined-parts.ts";
import type { ShapeStack } from "./stack.ts";

/** Where a shape went. */
export interface AddedShape {
  readonly id: string;
  /** Its part, when it was laid onto another one. */
  readonly partId: string | null;
}

/**
 * Previews a shape as something new of a stack, or laid onto the one in hand as the bench says, and takes it in hand. Null when there is
 * no room.
 */
export function addShape(session: EditSession, stack: ShapeStack, shape: SingleShape): AddedShape | null {
  const view = benchView.getState();
  const { recipe } = session.store.getState();
  const active = stack.list(recipe).find(({ id }) => id === stack.activeId(view));
  if (view.laying && active) {
    const laid = withPart(active.shape, view.laying, shape);
    if (!laid) {
      notify("There is no room for another shape in this one.");
      return null;
    }
    session.preview((old) => stack.change(old, active.id, () => laid.shape));
    benchView.setState({ partId: laid.partId });
    return { id: active.id, partId: laid.partId };
  }
  const made = stack.add(recipe, shape);
  session.preview(() => made.recipe);
  // Refused when there is no room for one more.
  if (!stack.list(session.store.getState().recipe).some(({ id }) => id === made.id)) return null;
  stack.activate(made.id);
  benchView.setState({ partId: null });
  return { id: made.id, partId: null };
}
