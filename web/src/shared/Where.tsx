import { useEffect, useState, type ReactNode } from "react";
import { createPortal } from "react-dom";

/** Where fills the header line with the place a page stands for, and names the window. */
export function Where({ title, children }: { title: string; children: ReactNode }) {
  const [slot, setSlot] = useState<HTMLElement | null>(null);
  useEffect(() => setSlot(document.getElementById("where")), []);
  useEffect(() => {
    document.title = `${title} · Amber Proof`;
  }, [title]);
  return slot ? createPortal(children, slot) : null;
}
