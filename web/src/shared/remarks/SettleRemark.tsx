import { App, Button } from "antd";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { useChange } from "../../api/http";
import { sayInRemark } from "../../api/rounds";
import { capital } from "../words";
import styles from "./SettleRemark.module.css";

type Props = {
  id: number;
  number: number;
  round: number;
  proof: number;
  topic: string;
  words: string;
  /** Who looks may say that it is done. */
  may: boolean;
  children?: ReactNode;
};

/** SettleRemark is a remark about a setting, offered to be settled where that was changed. */
export function SettleRemark({ id, number, round, proof, topic, words, may, children }: Props) {
  const { message } = App.useApp();
  const say = useChange(sayInRemark, [["remarks"], ["round"], ["board"]]);
  return (
    <div className={styles.remark}>
      <div className="faint">
        <Link to={`/rounds/${round}?proof=${proof}&side=remarks&remark=${id}`}>Remark {number}</Link> on{" "}
        {capital(topic)}
      </div>
      <p>{words}</p>
      {children}
      {may && (
        <Button
          size="small"
          loading={say.isPending}
          onClick={() =>
            say.mutate(
              { remark: id, words: "", state: "done", in: proof },
              { onError: (e) => void message.error(e.message) },
            )
          }
        >
          Done
        </Button>
      )}
    </div>
  );
}
