import type { ReactNode } from "react";

/** A titled block of controls in a station sheet. */
export function Group({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={title} className="border-line border-t py-3 first-of-type:border-t-0">
      <header className="mb-1.5 flex min-h-6 items-center justify-between">
        <h3 className="font-serif text-[15px]">{title}</h3>
        {aside}
      </header>
      {children}
    </section>
  );
}
