import { BENCH_ACTS } from "./acts.ts";
import type { Negative, Print } from "@yelm/core";
import { ClipboardPaste, Copy, CopyPlus, Plus, Trash2 } from "lucide-react";
import { useStore } from "zustand";
import { memo } from "react";
import { useNavigate } from "react-router";
import { copiedParts } from "../copied-parts/clipboard.ts";
import { api } from "../data/api.ts";
import { printThumbnail, queryClient, usePrintsOfNegative } from "../data/queries.ts";
import { useEdit, useSession } from "../data/use-session.ts";
import { actRegistry, useAct } from "../keys/acts.ts";
import { notify } from "../shell/shell-view.ts";

/** The prints of this negative, side by side. */
export const Strip = memo(function Strip({ negative }: { negative: Negative }) {
  const navigate = useNavigate();
  const session = useSession();
  const current = useEdit((state) => state.print);
  const prints = usePrintsOfNegative(negative.id).data ?? [current];
  const go = (print: Print) => void navigate(`/prints/${print.id}`);
  const make = async (body: { name: string; from?: string }) => {
    await session.sendAll();
    const print = await api<Print>("/prints", { method: "POST", body: { negativeId: negative.id, ...body } });
    await queryClient.invalidateQueries({ queryKey: ["prints"] });
    go(print);
  };
  const attempt = (work: Promise<unknown>) => void work.catch((error: Error) => notify(error.message));
  const fresh = () => attempt(make({ name: freeName("Print", prints) }));
  const duplicate = () => attempt(make({ name: freeName(current.name, prints), from: current.id }));
  const remove = async () => {
    await session.sendAll();
    const { id, name } = session.store.getState().print;
    await api(`/prints/${id}`, { method: "DELETE" });
    await queryClient.invalidateQueries({ queryKey: ["prints"] });
    const next = prints[prints.findIndex((print) => print.id === id) + 1] ?? prints.find((print) => print.id !== id)!;
    go(next);
    notify(`“${name}” is put away.`, {
      label: "Bring it back",
      run: () =>
        attempt(
          api<Print>(`/prints/${id}/restore`, { method: "POST" }).then(async (print) => {
            await queryClient.invalidateQueries({ queryKey: ["prints"] });
            go(print);
          }),
        ),
    });
  };
  const step = (by: number) => {
    const at = prints.findIndex((print) => print.id === current.id);
    go(prints[(at + by + prints.length) % prints.length]);
  };
  useAct({ ...BENCH_ACTS["print-new"], run: fresh });
  useAct({ ...BENCH_ACTS["print-copy"], run: duplicate });
  useAct({ ...BENCH_ACTS["print-next"], run: () => step(1) });
  useAct({ ...BENCH_ACTS["print-back"], run: () => step(-1) });
  const { kept } = useStore(copiedParts);
  const single = prints.length < 2;
  useAct({ ...BENCH_ACTS["print-away"], enabled: !single, run: () => attempt(remove()) });

  return (
    <div className="flex min-w-0 items-stretch gap-2 px-3" aria-label="Prints of this negative">
      <div className="slim-scroll flex min-w-0 items-center gap-3 overflow-x-auto py-2 pr-1 pl-1">
        {prints.map((print) => {
          const active = print.id === current.id;
          return (
            <button
              key={print.id}
              aria-current={active ? "true" : undefined}
              className="group w-[92px] shrink-0 cursor-pointer"
              onClick={() => go(print)}
            >
              <img
                src={printThumbnail(active ? { id: print.id, head: current.head } : print, 160)}
                alt=""
                className={`mx-auto h-[56px] object-contain ${active ? "outline-accent outline-2 outline-offset-2" : ""}`}
              />
              <span
                className={`block truncate pt-1.5 text-center text-[12px] ${active ? "" : "text-quiet group-hover:text-base-content"}`}
              >
                {print.name}
              </span>
            </button>
          );
        })}
      </div>
      <div className="text-quiet flex shrink-0 flex-col justify-center">
        <StripAct label="New print" keys="N" icon={<Plus size={14} />} onClick={fresh} />
        <StripAct label="Duplicate" keys="Shift C" icon={<CopyPlus size={14} />} onClick={duplicate} />
        <StripAct
          label="Put away"
          keys="Shift Del"
          icon={<Trash2 size={14} />}
          onClick={() => attempt(remove())}
          disabled={single}
        />
      </div>
      <div className="text-quiet flex shrink-0 flex-col justify-center">
        <StripAct
          label="Copy parts"
          keys="Ctrl Shift C"
          icon={<Copy size={14} />}
          onClick={() => doAct("parts-copy")}
        />
        <StripAct
          label="Paste parts"
          keys="Ctrl Shift V"
          icon={<ClipboardPaste size={14} />}
          onClick={() => doAct("parts-paste")}
          disabled={!kept}
        />
      </div>
    </div>
  );
});

/** Does an act of this screen by its name, as the palette does. */
function doAct(id: string): void {
  actRegistry.getState().get(id)?.run();
}

interface StripActProps {
  readonly label: string;
  readonly keys: string;
  readonly icon: React.ReactNode;
  readonly onClick: () => void;
  readonly disabled?: boolean;
}

function StripAct({ label, keys, icon, onClick, disabled }: StripActProps) {
  return (
    <button className="act min-h-[24px] px-2 py-0" title={`${label} (${keys})`} onClick={onClick} disabled={disabled}>
      {icon} {label}
    </button>
  );
}

function freeName(wanted: string, prints: readonly Print[]): string {
  const stem = wanted.replace(/ \d+$/, "").slice(0, 70);
  const taken = new Set(prints.map((print) => print.name));
  let number = 2;
  while (taken.has(`${stem} ${number}`)) number++;
  return `${stem} ${number}`;
}
