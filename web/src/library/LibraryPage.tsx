import { App, Button } from "antd";
import { useChange } from "../api/http";
import { Where } from "../shared/Where";
import { putEntryAway, useLibrary, type Kind } from "../api/library";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./LibraryPage.module.css";

export function LibraryPage() {
  return (
    <div className={lists.page}>
      <Where title="Library">
        <b>Library</b>
      </Where>
      <header>
        <h1>Qualities</h1>
      </header>
      <Shelf kind="quality" empty="" />
      <header className={lists.second}>
        <h1>Stages</h1>
      </header>
      <Shelf kind="stage" empty="No stage yet. The stage of a scene keeps itself here, under a name." />
      <header className={lists.second}>
        <h1>Clay plans</h1>
      </header>
      <Shelf
        kind="clay"
        empty="No plan yet. The surface section of a ticket in clay keeps its plan here, under a name."
      />
    </div>
  );
}

function Shelf({ kind, empty }: { kind: Kind; empty: string }) {
  const list = useLibrary(kind);
  const { message } = App.useApp();
  const away = useChange(putEntryAway, [["library", kind]]);
  if (list.error)
    return (
      <div className={bits.notice} role="alert">
        {list.error.message}
      </div>
    );
  return (
    <>
      {list.data?.map((e) => (
        <div key={e.key} className={`${lists.row} ${styles.row}`}>
          {kind === "stage" && (
            <span className={styles.swatch}>
              {e.shown && (
                <img src={`/api/library/stage/${e.key}/${e.version}/picture.png`} alt={`${e.name}, as kept`} />
              )}
            </span>
          )}
          {kind === "clay" && <ClaySwatch tones={e.tones ?? []} />}
          <span>
            <b>{e.name}</b>
            <span className="faint">
              {e.builtIn ? e.help : `version ${e.version}${e.project ? ", of this project" : ""}`}
            </span>
          </span>
          <span>{e.says}</span>
          {e.builtIn ? (
            <span className="faint">comes with the program</span>
          ) : (
            <Button
              size="small"
              type="text"
              onClick={() =>
                away.mutate({ kind, key: e.key }, { onError: (x: Error) => void message.error(x.message) })
              }
              aria-label={`Put ${e.name} away`}
            >
              Put away
            </Button>
          )}
        </div>
      ))}
      {list.data?.length === 0 && <p className="faint">{empty}</p>}
    </>
  );
}

/** ClaySwatch shows the two tones of a plan, as the display shows such a reflectance under white light. */
function ClaySwatch({ tones }: { tones: number[] }) {
  const grey = (v: number) => {
    const s = v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055;
    const k = Math.round(s * 255);
    return `rgb(${k},${k},${k})`;
  };
  return (
    <span className={styles.swatch} aria-hidden>
      {tones.map((t, i) => (
        <i key={i} style={{ background: grey(t) }} />
      ))}
    </span>
  );
}
