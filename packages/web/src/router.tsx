import { createBrowserRouter } from "react-router";
import { BenchScreen } from "./screens/bench.tsx";
import { ContactSheetScreen } from "./screens/contact-sheet.tsx";
import { ExportsScreen } from "./screens/exports.tsx";
import { LostScreen } from "./screens/lost.tsx";
import { RollsScreen } from "./screens/rolls.tsx";
import { SetScreen } from "./screens/set.tsx";
import { SpreadScreen } from "./screens/spread.tsx";
import { Shell } from "./shell/shell.tsx";

export const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <LostScreen />,
    children: [
      { path: "/", element: <RollsScreen /> },
      { path: "/rolls/:rollId", element: <ContactSheetScreen /> },
      { path: "/prints/:printId", element: <BenchScreen /> },
      { path: "/rolls/:rollId/set", element: <SetScreen /> },
      { path: "/spread", element: <SpreadScreen /> },
      { path: "/exports", element: <ExportsScreen /> },
      { path: "*", element: <LostScreen /> },
    ],
  },
]);
