import { useStore } from "zustand";
import { actRegistry, keyText } from "../keys/acts.ts";
import { Sheet } from "./sheet.tsx";

/** All keys of the present screen, by group. */
export function KeysSheet({ onClose }: { onClose: () => void }) {
  const acts = [...useStore(actRegistry).values()].filter((act) => act.keys !== "");
  const groups = [...new Set(acts.map((act) => act.group))];
  return (
    <Sheet title="Keys" onClose={onClose} wide>
      <div className="columns-2 gap-10">
        {groups.map((group) => (
          <section key={group} className="mb-5 break-inside-avoid">
            <h3 className="text-quiet mb-1 font-serif text-[15px]">{group}</h3>
            <dl>
              {acts
                .filter((act) => act.group === group)
                .map((act) => (
                  <div key={act.id} className="flex justify-between py-0.5">
                    <dt>{act.label}</dt>
                    <dd>
                      <kbd>
                        {act.release && "hold "}
                        {keyText(act.keys)}
                      </kbd>
                    </dd>
                  </div>
                ))}
            </dl>
          </section>
        ))}
      </div>
      <p className="text-quiet mt-2">
        In every amount: arrows step, with Shift coarse, with Alt fine; double-click its name to reset; type a number.
      </p>
    </Sheet>
  );
}
