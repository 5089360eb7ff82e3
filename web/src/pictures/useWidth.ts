// How wide a picture may be.

import { type RefObject, useEffect, useRef, useState } from 'react';

/** The width of an element, as it changes. */
export function useWidth<E extends Element>(): [RefObject<E | null>, number] {
  const element = useRef<E>(null);
  const [width, setWidth] = useState(800);
  useEffect(() => {
    if (!element.current) {
      return;
    }
    const observer = new ResizeObserver(([entry]) => entry && setWidth(Math.round(entry.contentRect.width)));
    observer.observe(element.current);
    return () => observer.disconnect();
  }, []);
  return [element, width];
}
