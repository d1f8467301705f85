import { X } from "lucide-react";
import { useStore } from "zustand";
import { dismiss, hold, shellView } from "./shell-view.ts";

/**
 * Quiet lines with at most one act; they go by themselves, later while the pointer is on them. At the bench they stand between
 * the strip and the ticket, elsewhere along the foot of the screen: never over the picture, the sheet or the ladder.
 */
export function Notices() {
  const { notices } = useStore(shellView);
  if (notices.length === 0) return null;
  const { id, text, act } = notices[notices.length - 1];
  return (
    <div role="status" className="absolute inset-x-2 bottom-2 z-30 flex" data-testid="notice">
      <div
        className="bg-paper text-ink flex max-h-[80px] w-full items-start gap-3 overflow-y-auto rounded-[2px] px-3 py-2"
        onPointerEnter={() => hold(id, true)}
        onPointerLeave={() => hold(id, false)}
      >
        <span className="min-w-0 flex-1">{text}</span>
        {act && (
          <button
            className="shrink-0 cursor-pointer font-semibold underline underline-offset-2"
            onClick={() => {
              act.run();
              dismiss(id);
            }}
          >
            {act.label}
          </button>
        )}
        {notices.length > 1 && <span className="text-ink-quiet shrink-0">{notices.length - 1} more</span>}
        <button
          className="text-ink-quiet shrink-0 cursor-pointer p-0.5"
          aria-label="Close this notice"
          onClick={() => dismiss(id)}
        >
          <X size={14} />
        </button>
      </div>
    </div>
  );
}
