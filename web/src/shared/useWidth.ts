// The size of a box in pixels: charts are drawn to its width, so their text keeps its size; lists reserve its height.
import { useEffect, useRef, useState } from "react";

export function useSize<Box extends HTMLElement>(): [React.RefObject<Box | null>, { width: number; height: number }] {
  const box = useRef<Box>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => {
      if (!entry) return;
      // Its content's width, which a chart may fill; its whole height, which it takes from its neighbours.
      const height = (entry.target as HTMLElement).offsetHeight;
      setSize({ width: Math.round(entry.contentRect.width), height });
    });
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  return [box, size];
}

export function useWidth<Box extends HTMLElement>(): [React.RefObject<Box | null>, number] {
  const [box, { width }] = useSize<Box>();
  return [box, width];
}
