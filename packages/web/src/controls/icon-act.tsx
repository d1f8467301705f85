import type { ReactNode } from "react";

/** A small act that is all icon. */
export function IconAct({ label, icon, onClick }: { label: string; icon: ReactNode; onClick: () => void }) {
  return (
    <button className="cursor-pointer p-1.5" aria-label={label} title={label} onClick={onClick}>
      {icon}
    </button>
  );
}
