import type { Schemas, SceneBody } from "../api/client";

/** What a section of the ticket shows besides the ticket itself. */
export type SectionProps = { scene: SceneBody; outlook?: Schemas["Outlook"] };
