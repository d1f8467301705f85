import { useRouteError } from "react-router";
import { Waiting } from "../shell/waiting.tsx";

/** For an address that leads nowhere, and for a screen that failed. */
export function LostScreen() {
  const error = useRouteError();
  const text = error instanceof Error ? `This screen stopped: ${error.message}` : "There is nothing at this address.";
  return <Waiting text={text} home />;
}
