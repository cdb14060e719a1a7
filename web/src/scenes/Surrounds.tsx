import { Radio } from "antd";
import { useState } from "react";
import { queryClient, type Schemas } from "../api/http";
import { useProject } from "../api/projects";
import { surroundShown, useSurrounds } from "../api/scenes";
import { DropFiles } from "../shared/DropFiles";
import lists from "../shared/lists.module.css";
import styles from "./Surrounds.module.css";

/** Surrounds are the environment pictures of the project and the studio, and how more come in. */
export function Surrounds() {
  const project = useProject();
  const surrounds = useSurrounds();
  const [studio, setStudio] = useState(false);
  if (!project) return null;
  return (
    <>
      <header className={lists.second}>
        <h1>Environment pictures</h1>
        <span className="faint">New pictures are</span>
        <Radio.Group
          size="small"
          aria-label="Who sees new pictures"
          value={studio}
          onChange={(e) => setStudio(e.target.value as boolean)}
          options={[
            { value: false, label: `for ${project.name} only` },
            { value: true, label: "for the whole studio" },
          ]}
        />
      </header>
      <DropFiles<Schemas["PictureFile"]>
        url="/api/surrounds"
        query={{ project: studio ? "0" : String(project.id) }}
        accept=".hdr,.exr"
        words="Drop a Radiance .hdr or OpenEXR .exr picture that lights a scene from all round."
        button="Choose .hdr or .exr"
        done={() => void queryClient.invalidateQueries({ queryKey: ["surrounds"] })}
      />
      {surrounds.data?.map((s) => (
        <div key={s.sha256} className={`${lists.row} ${styles.surround}`}>
          <img src={surroundShown(s.sha256)} alt="" loading="lazy" />
          <b>{s.name}</b>
          <span>
            {s.width} × {s.height} px
          </span>
          <span className="faint">{s.project ? "this project's" : "the whole studio's"}</span>
          <span className="mono faint">{s.sha256.slice(0, 12)}</span>
        </div>
      ))}
    </>
  );
}
