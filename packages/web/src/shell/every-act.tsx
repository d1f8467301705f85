import { Command } from "cmdk";
import { useStore } from "zustand";
import { actRegistry, keyText, type Act } from "../keys/acts.ts";
import { shellView } from "./shell-view.ts";

/** The command palette: every act of this screen, found by typing part of its name. */
export function EveryAct() {
  const { paletteOpen } = useStore(shellView);
  const acts = [...useStore(actRegistry).values()].filter((act) => !act.release && act.id !== "every-act");
  const groups = [...new Set(acts.map((act) => act.group))];
  const close = () => shellView.setState({ paletteOpen: false });
  const choose = (act: Act) => {
    close();
    act.run();
  };
  return (
    <Command.Dialog
      open={paletteOpen}
      onOpenChange={(open) => shellView.setState({ paletteOpen: open })}
      label="Every act"
      overlayClassName="fixed inset-0 z-40 bg-black/50"
      contentClassName="fixed top-[12%] left-1/2 z-50 w-[480px] -translate-x-1/2 rounded-md border border-line bg-base-100 text-base-content"
      loop
    >
      <Command.Input
        placeholder="What would you like to do?"
        className="border-line placeholder:text-quiet w-full border-b bg-transparent px-4 py-3 text-[15px] outline-none"
      />
      <Command.List className="slim-scroll max-h-[380px] overflow-y-auto p-2">
        <Command.Empty className="text-quiet px-2 py-4">No act is called that.</Command.Empty>
        {groups.map((group) => (
          <Command.Group
            key={group}
            heading={group}
            className="[&_[cmdk-group-heading]]:text-quiet [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:font-serif"
          >
            {acts
              .filter((act) => act.group === group)
              .map((act) => (
                <Command.Item
                  key={act.id}
                  value={`${act.label} ${act.id}`}
                  onSelect={() => choose(act)}
                  className="data-[selected=true]:bg-fill flex cursor-pointer items-center justify-between rounded px-2 py-1.5"
                >
                  <span>{act.label}</span>
                  {act.keys && <kbd>{keyText(act.keys)}</kbd>}
                </Command.Item>
              ))}
          </Command.Group>
        ))}
      </Command.List>
    </Command.Dialog>
  );
}
