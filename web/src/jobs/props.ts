import type { Schemas } from "../api/http";
import type { Run } from "../api/runs";
import type { SceneBody } from "../api/scenes";

/** What a section of the ticket shows besides the ticket itself. */
export type SectionProps = {
  scene: SceneBody;
  outlook?: Schemas["Outlook"];
  /** What a run of the ticket would take; undefined before it is known. */
  forecast?: Schemas["Forecast"];
  /** Lights parts up in the picture, by their keys. */
  light?: (parts: string[]) => void;
  /** The run that is looked at, if it is in clay and has a picture. */
  clayRun?: Run;
};
