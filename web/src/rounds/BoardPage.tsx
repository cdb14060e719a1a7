import { App, Button } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useChange } from "../api/http";
import { isGoing } from "../api/live";
import { useMay, useMe, useProject } from "../api/projects";
import { makeRound, proofPicture, useBoard, type Board, type Round } from "../api/rounds";
import { useQueue } from "../api/runs";
import { RunLine } from "../shared/proof/RunLine";
import { Where } from "../shared/Where";
import { RoundForm } from "./RoundForm";
import { Stamp } from "./Stamp";
import { dayWords, kindWords, waitingFor } from "./words";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./BoardPage.module.css";

/** BoardPage is a project at a glance: its rounds across, its views down. */
export function BoardPage() {
  const project = useProject();
  const board = useBoard(project?.id);
  const [making, setMaking] = useState(false);
  const go = useNavigate();
  const { message } = App.useApp();
  const make = useChange(makeRound, [["board", project?.id]]);
  const rounds = board.data?.rounds ?? [];
  const may = useMay(project?.id, "change rounds");
  const last = rounds.at(-1);
  return (
    <div className={styles.page}>
      <Where title="Board">
        <h1>Board</h1>
      </Where>
      <header className={styles.head}>
        <h1>{project?.name}</h1>
        {may && (
          <Button type={rounds.length === 0 ? "primary" : "default"} onClick={() => setMaking(true)}>
            New round
          </Button>
        )}
      </header>
      {board.error && (
        <div className={bits.notice} role="alert">
          {board.error.message}
        </div>
      )}
      {board.data && rounds.length === 0 && (
        <p className="faint">
          No round yet. A round shows proofs to the people who have to agree, and keeps what they answer: first the
          shape in clay, then light, finish and the final picture.
        </p>
      )}
      {board.data && rounds.length > 0 && <Table board={board.data} />}
      <Running />
      {making && project && board.data && (
        <RoundForm
          project={project.id}
          title={`Round ${rounds.length + 1}`}
          ok="Create round"
          first={rounds.length === 0}
          busy={make.isPending}
          was={{
            kind: board.data.next,
            title: kindWords[board.data.next],
            due: "",
            needs: rounds.length > 0,
            asked: last?.asked.map((a) => a.id) ?? [],
          }}
          cancel={() => setMaking(false)}
          done={(t) =>
            make.mutate(
              { project: project.id, ...t },
              { onSuccess: (r) => void go(`/rounds/${r.id}`), onError: (e) => void message.error(e.message) },
            )
          }
        />
      )}
    </div>
  );
}

function Table({ board }: { board: Board }) {
  const byID = new Map(board.rounds.flatMap((r) => r.proofs.map((p) => [p.id, p] as const)));
  return (
    <div className={styles.scroll}>
      <table className={styles.table}>
        <thead>
          <tr>
            <th scope="col">
              <span className="faint">View</span>
            </th>
            {board.rounds.map((r) => (
              <th key={r.id} scope="col">
                <RoundHead round={r} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {board.views.map((v) => (
            <tr key={`${v.scene}/${v.view}`}>
              <th scope="row">
                <b>{v.view}</b>
                <span className="faint">{v.scene}</span>
              </th>
              {v.cells.map((id, i) => {
                const p = byID.get(id);
                const r = board.rounds[i]!;
                return (
                  <td key={r.id}>
                    {p && (
                      <Link to={`/rounds/${r.id}?proof=${p.id}`} className={styles.cell}>
                        <img alt={`${v.view} in round ${r.number}`} src={proofPicture(p, 320)} loading="lazy" />
                        <Stamp verdict={p.verdict} />
                        {p.remarks > 0 && (
                          <span className="faint">
                            {p.remarks === 1 ? "1 open remark" : `${p.remarks} open remarks`}
                          </span>
                        )}
                      </Link>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function RoundHead({ round: r }: { round: Round }) {
  const me = useMe().data?.id;
  return (
    <Link to={`/rounds/${r.id}`} className={styles.round}>
      <span className="faint">
        {r.number} {kindWords[r.kind]}
      </span>
      <b>{r.title}</b>
      <Stamp verdict={r.verdict} />
      <span className={r.late ? styles.late : "faint"}>
        {[
          r.blocked && `needs round ${r.number - 1}`,
          r.due && (r.late ? `late: was due ${dayWords(r.due)}` : `due ${dayWords(r.due)}`),
        ]
          .filter(Boolean)
          .join(" · ")}
      </span>
      <span className={r.asked.some((a) => a.id === me && a.waits > 0) ? styles.late : "faint"}>
        {waitingFor(r, me)}
      </span>
    </Link>
  );
}

/** Running is what is rendered now, and how far it is. */
function Running() {
  const queue = useQueue();
  const now = queue.data?.runs.filter((r) => isGoing(r.state)) ?? [];
  const waiting = (queue.data?.runs.length ?? 0) - now.length;
  if (now.length + waiting === 0) return null;
  return (
    <section className={styles.running} aria-label="Running">
      <h2>Running</h2>
      {now.map((r) => (
        <div key={r.id} className={lists.row}>
          <RunLine run={r} flat />
        </div>
      ))}
      {waiting > 0 && (
        <p className="faint">
          {waiting} more in the <Link to="/queue">queue</Link>
        </p>
      )}
    </section>
  );
}
