import { Moon, Sun } from "lucide-react";
import type { ReactNode, Ref } from "react";
import { Link } from "react-router";
import { Mark } from "../shell/mark.tsx";
import { shellView } from "../shell/shell-view.ts";
import { toggleTheme, useLook } from "../theme/theme.ts";

/** A quiet page: one bar, one column. */
export function Page({
  children,
  acts,
  scroller,
}: {
  children: ReactNode;
  acts?: ReactNode;
  scroller?: Ref<HTMLElement>;
}) {
  const { theme } = useLook();
  return (
    <div className="flex h-full flex-col">
      <header className="border-line flex h-11 shrink-0 items-center gap-2 border-b px-3">
        <Mark />
        <Link className="act" to="/">
          Rolls
        </Link>
        <Link className="act" to="/exports">
          Exports
        </Link>
        <span className="ml-auto flex items-center gap-1">
          {acts}
          <button className="act" aria-label={theme === "night" ? "Day bench" : "Night bench"} onClick={toggleTheme}>
            {theme === "night" ? <Sun size={15} /> : <Moon size={15} />}
          </button>
          <button className="act" onClick={() => shellView.setState({ paletteOpen: true })}>
            Every act <kbd>K</kbd>
          </button>
        </span>
      </header>
      <main ref={scroller} className="slim-scroll min-h-0 flex-1 overflow-y-auto">
        <div className="mx-auto max-w-[1560px] px-10 pt-8 pb-56">{children}</div>
      </main>
    </div>
  );
}
