import { Button, Tabs } from "antd";
import type { ComponentProps } from "react";
import { count } from "../shared/words";
import { PartTree } from "./PartTree";
import { Picked } from "./Picked";
import { VariantsPanel } from "./VariantsPanel";
import bits from "../shared/bits.module.css";
import styles from "./ScenePage.module.css";

/** How the parts are listed. */
export type By = "tree" | "finish" | "variants";

type Props = Omit<ComponentProps<typeof Picked>, "hide"> & {
  by: By;
  onBy: (by: By) => void;
  onPick: (parts: number[]) => void;
  /** Parts that are not shown in the live picture. */
  hidden: number[];
  onHidden: (parts: number[]) => void;
  /** The variant that the live picture shows. */
  variant: string;
  onVariant: (name: string) => void;
};

/** PartsSide lists the parts, by place, finish or variant, over what can be done with those that are picked. */
export function PartsSide(p: Props) {
  const { scene, bench, picked, hidden } = p;
  const tree = (
    <PartTree
      scene={scene}
      by={p.by === "finish" ? "finish" : "tree"}
      picked={picked}
      hidden={hidden}
      onPick={p.onPick}
    />
  );
  return (
    <section className={`${bits.side} ${styles.parts}`} aria-label="Parts">
      <Tabs
        className={styles.tabs}
        size="small"
        activeKey={p.by}
        onChange={(k) => p.onBy(k as By)}
        destroyOnHidden
        items={[
          { key: "tree", label: "By place", children: tree },
          { key: "finish", label: "By finish", children: tree },
          {
            key: "variants",
            label: "Variants",
            children: (
              <VariantsPanel scene={scene} bench={bench} picked={picked} shown={p.variant} onShown={p.onVariant} />
            ),
          },
        ]}
      />
      {hidden.length > 0 && (
        <Button size="small" type="text" onClick={() => p.onHidden([])}>
          Show the {count(hidden.length, "part")} hidden
        </Button>
      )}
      {picked.length > 0 && (
        <Picked
          {...p}
          hide={() => {
            p.onHidden([...new Set([...hidden, ...picked])]);
            p.onPick([]);
          }}
        />
      )}
    </section>
  );
}
