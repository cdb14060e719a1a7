import { Link, useNavigate } from "react-router";
import { queryClient, useScenes, useSurrounds, type Schemas } from "../api/client";
import { Where } from "../app/Frame";
import { DropFiles } from "../parts/DropFiles";
import { bytes, count } from "../parts/words";

export function ScenesPage() {
  const scenes = useScenes();
  const surrounds = useSurrounds();
  const go = useNavigate();
  return (
    <div className="list-page">
      <Where>
        <b>Scenes</b>
      </Where>
      <header>
        <h1>Scenes</h1>
      </header>
      <DropFiles<Schemas["Scene"]>
        url="/api/scenes"
        accept=".glb,.gltf,.bin,.obj,.mtl,.png,.jpg,.jpeg,.zip"
        words="Drop a .glb, a .gltf or .obj with its files, or a .zip of them."
        button="Choose scene files"
        done={(s) => {
          void queryClient.invalidateQueries({ queryKey: ["scenes"] });
          void go(`/scenes/${s.id}`);
        }}
      />
      {scenes.error && <div className="notice">{scenes.error.message}</div>}
      {scenes.data?.map((s) => (
        <Link key={s.id} className="row" style={{ gridTemplateColumns: "2fr 1fr 1fr 1fr" }} to={`/scenes/${s.id}`}>
          <b>{s.name}</b>
          <span>{count(s.parts, "part")}</span>
          <span>{(s.triangles / 1000).toFixed(1)} k triangles</span>
          <span className="faint">
            {bytes(s.bytes)}
            {s.leftOut.length > 0 && ` · ${s.leftOut.length} left out`}
          </span>
        </Link>
      ))}
      {scenes.data?.length === 0 && <p className="faint">No scene yet. Drop one above.</p>}
      <header style={{ marginTop: 32 }}>
        <h1>Environment pictures</h1>
      </header>
      <DropFiles<Schemas["Surround"]>
        url="/api/surrounds"
        accept=".hdr,.exr"
        words="Drop a Radiance .hdr or OpenEXR .exr picture that lights a scene from all round."
        button="Choose .hdr or .exr"
        done={() => void queryClient.invalidateQueries({ queryKey: ["surrounds"] })}
      />
      {surrounds.data?.map((s) => (
        <div key={s.sha256} className="row" style={{ gridTemplateColumns: "2fr 1fr 2fr" }}>
          <b>{s.name}</b>
          <span>
            {s.width} × {s.height} px
          </span>
          <span className="mono faint">{s.sha256.slice(0, 12)}</span>
        </div>
      ))}
    </div>
  );
}
