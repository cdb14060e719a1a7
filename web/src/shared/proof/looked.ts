import { createContext, useContext } from "react";

/** Looked is what a desk shows of its frame. */
export type Looked = {
  /** Of the frame, pixels. */
  width: number;
  height: number;
  /** Pixels of the page per pixel of the frame. */
  scale: number;
  /** The part in sight: left, top, right, bottom in pixels of the frame. */
  sight: [number, number, number, number];
};

export const LookedContext = createContext<Looked>({ width: 1, height: 1, scale: 1, sight: [0, 0, 1, 1] });

/** useLooked is what the desk around this shows. */
export const useLooked = () => useContext(LookedContext);
