// Whether the window has room for two panes side by side.
import { useEffect, useState } from "react";

const WIDE = 900;

export function useWide(): boolean {
  const [wide, setWide] = useState(innerWidth >= WIDE);
  useEffect(() => {
    const follow = () => setWide(innerWidth >= WIDE);
    window.addEventListener("resize", follow);
    return () => window.removeEventListener("resize", follow);
  }, []);
  return wide;
}
