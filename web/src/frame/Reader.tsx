import { Outlet } from "@tanstack/react-router";
import { Tooltip } from "radix-ui";

/** All that a signed-in person sees. */
export function Reader() {
  return (
    <Tooltip.Provider>
      <Outlet />
    </Tooltip.Provider>
  );
}
