import { useInsertionEffect, useRef, type RefObject } from "react";

/** useLatest is what a value was when the page was last drawn, for handlers that outlive a drawing. */
export function useLatest<T>(value: T): RefObject<T> {
  const latest = useRef(value);
  useInsertionEffect(() => {
    latest.current = value;
  });
  return latest;
}
