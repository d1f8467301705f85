import { useState } from "react";
import { Outlet, useNavigate } from "react-router";
import { useServerEvents } from "../data/queries.ts";
import { useAct } from "../keys/acts.ts";
import { toggleTheme } from "../theme/theme.ts";
import { EveryAct } from "./every-act.tsx";
import { ImportTray } from "./import-tray.tsx";
import { KeysSheet } from "./keys-sheet.tsx";
import { Notices } from "./notices.tsx";
import { shellView } from "./shell-view.ts";

/** What is around every screen: the palette, the list of keys, imports under way, notices. */
export function Shell() {
  const navigate = useNavigate();
  const [keysOpen, setKeysOpen] = useState(false);
  useServerEvents();
  useAct({
    id: "every-act",
    label: "Every act",
    group: "Go",
    keys: "k",
    run: () => shellView.setState({ paletteOpen: true }),
  });
  useAct({ id: "keys", label: "List the keys", group: "Go", keys: "shift+slash", run: () => setKeysOpen(true) });
  useAct({ id: "rolls", label: "Go to rolls", group: "Go", keys: "shift+r", run: () => void navigate("/") });
  useAct({ id: "exports", label: "Go to exports", group: "Go", keys: "shift+e", run: () => void navigate("/exports") });
  useAct({ id: "theme", label: "Night or day bench", group: "Go", keys: "shift+n", run: toggleTheme });
  return (
    <>
      <Outlet />
      <EveryAct />
      {keysOpen && <KeysSheet onClose={() => setKeysOpen(false)} />}
      <ImportTray />
      <Notices />
    </>
  );
}
