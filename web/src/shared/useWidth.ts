// The width of a box in pixels, so that pictures are drawn to it and their letters keep their size.
import { useEffect, useRef, useState } from "react";

export function useWidth<Box extends HTMLElement>(): [React.RefObject<Box | null>, number] {
  const box = useRef<Box>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.round(entry.contentRect.width)));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  return [box, width];
}
