import { useEffect, useState, useSyncExternalStore } from "react";
import { Editor, type Keeper, type Kept } from "./editor";

/** useEditor edits a document from when it was first opened; kept is what the server is known to have. */
export function useEditor<D>(keeper: () => Keeper<D>, kept: Kept<D> | undefined) {
  const [editor] = useState(() => new Editor(keeper()));
  const state = useSyncExternalStore(editor.subscribe, editor.snapshot);
  useEffect(() => editor.attach(), [editor]);
  useEffect(() => {
    if (kept) editor.opened(kept);
  }, [editor, kept]);
  useEffect(() => {
    const leave = (e: BeforeUnloadEvent) => {
      if (editor.dirty() && editor.snapshot().saved !== "faults") e.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [editor]);
  return { editor, state };
}
