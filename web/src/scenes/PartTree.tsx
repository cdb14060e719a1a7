import { Tree, type TreeDataNode } from "antd";
import { useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import type { SceneBody } from "../api/scenes";
import styles from "./PartTree.module.css";

type Props = {
  scene: SceneBody;
  by: "tree" | "finish";
  picked: number[];
  hidden: number[];
  onPick: (parts: number[]) => void;
};

const marks = (p: SceneBody["parts"][number], hidden: boolean) =>
  [
    hidden && "hidden",
    p.out && "left out",
    p.clear && "clear",
    p.glowing && !p.lamp && "glowing",
    p.lamp && "light",
    p.missing && "no finish",
  ]
    .filter(Boolean)
    .join(", ");

type Title = (part: number) => ReactNode;

function title(p: SceneBody["parts"][number], hidden: boolean): ReactNode {
  const m = marks(p, hidden);
  return (
    <span title={`${p.finish}, ${p.faces} faces, ${p.size.toFixed(1)} mm`}>
      {p.name}
      {m && <span className={styles.mark}>{m}</span>}
    </span>
  );
}

/** PartTree lists the parts by their place in the scene or by finish; several can be picked. */
export function PartTree({ scene, by, picked, hidden, onPick }: Props) {
  const nodes = useMemo(() => {
    const gone = new Set(hidden);
    const of: Title = (i) => title(scene.parts[i]!, gone.has(i));
    return by === "tree" ? [...groups(scene, of), ...objectTree(scene, of)] : finishTree(scene, of);
  }, [scene, by, hidden]);
  const open = useMemo(() => branches(nodes), [nodes]);
  const [closed, setClosed] = useState<string[]>([]);
  const keys = picked.map((i) => `p${i}`);
  const box = useRef<HTMLDivElement>(null);
  // What is picked elsewhere, in the view or by a finding, comes into sight.
  useEffect(() => {
    box.current?.querySelector(".ant-tree-node-selected")?.scrollIntoView({ block: "nearest" });
  }, [picked, by]);
  return (
    <div ref={box}>
      <Tree
        multiple
        treeData={nodes}
        expandedKeys={open.filter((k) => !closed.includes(k))}
        onExpand={(_, { node, expanded }) => {
          const key = String(node.key);
          setClosed(expanded ? closed.filter((k) => k !== key) : [...closed, key]);
        }}
        blockNode
        selectedKeys={keys}
        onSelect={(_, info) => {
          const below: number[] = []; // a group or finish stands for all parts below it
          const walk = (n: TreeDataNode) => {
            const k = String(n.key);
            if (k.startsWith("p")) below.push(Number(k.slice(1)));
            n.children?.forEach(walk);
          };
          walk(info.node as TreeDataNode);
          const add = info.nativeEvent.shiftKey || info.nativeEvent.ctrlKey || info.nativeEvent.metaKey;
          if (!add) return onPick(below);
          const has = below.every((i) => picked.includes(i));
          onPick(has ? picked.filter((i) => !below.includes(i)) : [...new Set([...picked, ...below])]);
        }}
      />
    </div>
  );
}

/** branches are the keys of all that can be opened. */
const branches = (nodes: TreeDataNode[]): string[] =>
  nodes.flatMap((n) => (n.children?.length ? [String(n.key), ...branches(n.children)] : []));

/** groups are the groups that were made here, each with its parts. */
function groups(scene: SceneBody, title: Title): TreeDataNode[] {
  const by = new Map<string, number[]>();
  scene.parts.forEach((p, i) => p.group && by.set(p.group, [...(by.get(p.group) ?? []), i]));
  return [...by].map(([group, parts]) => ({
    key: `g${group}`,
    title: `${group} (${parts.length})`,
    children: parts.map((i) => ({ key: `p${i}`, title: title(i) })),
  }));
}

function objectTree(scene: SceneBody, title: Title): TreeDataNode[] {
  const nodes: TreeDataNode[] = scene.objects.map((o, i) => ({ key: `o${i}`, title: o.name, children: [] }));
  const roots: TreeDataNode[] = [];
  scene.objects.forEach((o, i) => (o.parent < 0 ? roots : nodes[o.parent]!.children!).push(nodes[i]!));
  const alone = new Map<number, number[]>();
  scene.parts.forEach((p, i) => p.staged || p.group || alone.set(p.object, [...(alone.get(p.object) ?? []), i]));
  // An object with one part and nothing below it is that part.
  for (const [o, parts] of alone) {
    const n = nodes[o]!;
    if (parts.length === 1 && n.children!.length === 0) {
      n.key = `p${parts[0]}`;
      n.title = title(parts[0]!);
    } else {
      n.children!.unshift(...parts.map((i) => ({ key: `p${i}`, title: title(i) })));
    }
  }
  const empty = (n: TreeDataNode): boolean => String(n.key).startsWith("o") && n.children!.every(empty);
  const prune = (list: TreeDataNode[]): TreeDataNode[] =>
    list
      .filter((n) => !empty(n))
      .map((n) => (n.children?.length ? { ...n, children: prune(n.children) } : { ...n, children: undefined }));
  return prune(roots);
}

function finishTree(scene: SceneBody, title: Title): TreeDataNode[] {
  const by = new Map<string, number[]>();
  scene.parts.forEach((p, i) => p.staged || by.set(p.finish, [...(by.get(p.finish) ?? []), i]));
  return [...by].map(([finish, parts]) => ({
    key: `f${finish}`,
    title: `${finish} (${parts.length})`,
    children: parts.map((i) => ({ key: `p${i}`, title: title(i) })),
  }));
}
