import { AimOutlined, BorderOutlined, EditOutlined } from "@ant-design/icons";
import { Button, Segmented } from "antd";
import type { ProofUp } from "../api/rounds";
import { MarkCatcher } from "../shared/remarks/MarkCatcher";
import { Marks } from "../shared/remarks/Marks";
import type { Remarking } from "./useRemarking";

/** OverPicture is what of remarks lies over the picture: their marks, and what catches a new one. */
export function OverPicture({ proof, remarking: m }: { proof: ProofUp; remarking: Remarking }) {
  return (
    <>
      <Marks pins={m.listed} proof={proof.id} chosen={m.chosen} choose={m.choose} draft={m.draft} />
      {m.tool && <MarkCatcher tool={m.tool} done={m.draw} />}
    </>
  );
}

/** RemarkTools begin a remark, and choose what it is drawn with. */
export function RemarkTools({ remarking: m }: { remarking: Remarking }) {
  if (!m.tool)
    return (
      <Button size="small" onClick={() => m.setTool("spot")}>
        Remark
      </Button>
    );
  return (
    <>
      <Segmented
        size="small"
        aria-label="Draw"
        value={m.tool}
        onChange={m.setTool}
        options={[
          { value: "spot", label: "Spot", icon: <AimOutlined /> },
          { value: "box", label: "Box", icon: <BorderOutlined /> },
          { value: "stroke", label: "Stroke", icon: <EditOutlined /> },
        ]}
      />
      <Button size="small" onClick={m.stop}>
        Cancel
      </Button>
    </>
  );
}
