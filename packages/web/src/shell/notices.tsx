import { X } from "lucide-react";
import { useStore } from "zustand";
import { dismiss, shellView } from "./shell-view.ts";

export function Notices() {
  const { notices } = useStore(shellView);
  return (
    <div role="status" className="pointer-events-none fixed inset-x-0 bottom-28 z-40 flex flex-col items-center gap-2">
      {notices.map(({ id, text, act }) => (
        <div
          key={id}
          className="bg-paper text-ink pointer-events-auto flex items-center gap-3 rounded px-4 py-2 shadow"
        >
          <span>{text}</span>
          {act && (
            <button
              className="cursor-pointer font-semibold underline underline-offset-2"
              onClick={() => {
                act.run();
                dismiss(id);
              }}
            >
              {act.label}
            </button>
          )}
          <button className="text-ink-quiet cursor-pointer" aria-label="Close this notice" onClick={() => dismiss(id)}>
            <X size={14} />
          </button>
        </div>
      ))}
    </div>
  );
}
