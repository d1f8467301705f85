import { SHELL_ACTS } from "./acts.ts";
import { useEffect, useState } from "react";
import { Outlet, useLocation, useNavigate } from "react-router";
import { sendWhatWaits } from "../data/session/open-print.ts";
import { loadKeys } from "../keys/key-settings.ts";
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
  const atBench = useLocation().pathname.startsWith("/prints/");
  useServerEvents();
  useEffect(() => {
    loadKeys().catch(() => undefined);
    // What windows that are gone had left unsent; the print that is open here sees to its own.
    const open = location.pathname;
    sendWhatWaits((id) => open === `/prints/${id}`).catch(() => undefined);
  }, []);
  useAct({ ...SHELL_ACTS["every-act"], run: () => shellView.setState({ paletteOpen: true }) });
  useAct({ ...SHELL_ACTS["keys"], run: () => setKeysOpen(true) });
  useAct({ ...SHELL_ACTS["rolls"], run: () => void navigate("/") });
  useAct({ ...SHELL_ACTS["exports"], run: () => void navigate("/exports") });
  useAct({ ...SHELL_ACTS["theme"], run: toggleTheme });
  return (
    <>
      <Outlet />
      <EveryAct />
      {keysOpen && <KeysSheet onClose={() => setKeysOpen(false)} />}
      <ImportTray />
      {!atBench && (
        <div className="fixed inset-x-0 bottom-0 z-40 mx-auto max-w-3xl">
          <Notices />
        </div>
      )}
    </>
  );
}
