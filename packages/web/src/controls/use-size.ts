import type { Size } from "@yelm/core";
import { useLayoutEffect, useState, type RefObject } from "react";

/** Size of an element in whole CSS pixels, 0 until it is known; `there` says when the element has come. */
export function useSize(element: RefObject<Element | null>, there = true): Size {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useLayoutEffect(() => {
    if (!element.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      setSize({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [element, there]);
  return size;
}
