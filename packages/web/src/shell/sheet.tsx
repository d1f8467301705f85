import { X } from "lucide-react";
import { useEffect, useRef, type ReactNode } from "react";

/** A modal sheet; Esc and a click outside close it. */
export function Sheet({
  title,
  onClose,
  wide,
  children,
}: {
  title: string;
  onClose: () => void;
  wide?: boolean;
  children: ReactNode;
}) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  return (
    <dialog
      ref={dialog}
      aria-label={title}
      className={`bg-base-100 text-base-content border-line m-auto max-h-[86vh] rounded-md border p-0 backdrop:bg-black/50 ${wide ? "w-[760px]" : "w-[460px]"}`}
      onClose={onClose}
      onPointerDown={(event) => {
        if (event.target === dialog.current) dialog.current.close();
      }}
    >
      <div className="p-6">
        <header className="mb-4 flex items-center justify-between">
          <h2 className="font-serif text-xl">{title}</h2>
          <button className="act" aria-label="Close" onClick={() => dialog.current?.close()}>
            <X size={16} />
          </button>
        </header>
        {children}
      </div>
    </dialog>
  );
}
