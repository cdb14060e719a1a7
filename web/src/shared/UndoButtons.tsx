import { RedoOutlined, UndoOutlined } from "@ant-design/icons";
import { Button, Tooltip } from "antd";
import { useEffect } from "react";
import { useLatest } from "./useLatest";

/** UndoButtons take back the last change of a page, and do it again, also by their keys. */
export function UndoButtons(p: { depth: { undo: number; redo: number }; undo: () => void; redo: () => void }) {
  const latest = useLatest(p);
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        (e.shiftKey ? latest.current.redo : latest.current.undo)();
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
  return (
    <>
      <Tooltip title="Take back the last change (Ctrl+Z)">
        <Button size="small" type="text" icon={<UndoOutlined />} disabled={!p.depth.undo} onClick={p.undo}>
          Undo
        </Button>
      </Tooltip>
      <Tooltip title="Do it again (Ctrl+Shift+Z)">
        <Button size="small" type="text" icon={<RedoOutlined />} disabled={!p.depth.redo} onClick={p.redo}>
          Redo
        </Button>
      </Tooltip>
    </>
  );
}
