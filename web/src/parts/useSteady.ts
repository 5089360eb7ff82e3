import { useLayoutEffect, useMemo, useRef } from 'react';

/** Functions that stay the same objects and act as the latest did, so that what takes them is not drawn anew for them. */
export function useSteady<T extends { [K in keyof T]: (...args: never[]) => unknown }>(latest: T): T {
  const now = useRef(latest);
  useLayoutEffect(() => {
    now.current = latest;
  });
  return useMemo(() => {
    const names = Object.keys(now.current) as (keyof T)[];
    const steady = names.map((name) => [name, (...args: never[]) => now.current[name](...args)]);
    return Object.fromEntries(steady) as T;
  }, []);
}
