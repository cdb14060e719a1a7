import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";
import { useProject } from "./projects";

export type SceneBody = Schemas["SceneBody"];
export type Camera = Schemas["Camera"];

export const useScenes = (project: number | undefined, putAway = false) =>
  useQuery({
    queryKey: ["scenes", project, putAway],
    enabled: project !== undefined,
    queryFn: () => take(api.GET("/api/scenes", { params: { query: { project, putAway } } })),
  });

export const sceneQuery = (id: number) => ({
  queryKey: ["scene", id],
  staleTime: 0,
  queryFn: () => take(api.GET("/api/scenes/{id}", { params: { path: { id } } })),
});
export const useScene = (id: number | undefined) => useQuery({ ...sceneQuery(id ?? 0), enabled: id !== undefined });

/** usePose is where a scene's parts and views are at a moment of an animation; nothing without one. */
export const usePose = (id: number | undefined, animation: string, moment: number) =>
  useQuery({
    queryKey: ["pose", id, animation, moment],
    enabled: id !== undefined && animation !== "",
    placeholderData: (old) => old,
    queryFn: () =>
      take(api.GET("/api/scenes/{id}/pose", { params: { path: { id: id! }, query: { animation, moment } } })),
  });

/** useSurrounds are the environment pictures of the project and of the studio. */
export const useSurrounds = () => {
  const project = useProject()?.id ?? 0;
  return useQuery({
    queryKey: ["surrounds", project],
    queryFn: () => take(api.GET("/api/surrounds", { params: { query: { project } } })),
  });
};

/** surroundShown is the address of a ball in the light of an environment picture, and of that beside it, unrolled. */
export const surroundShown = (sha256: string) => `/api/surrounds/${sha256}/shown.png`;

/** usePictures are those of the shelf, then those that the project and the studio have. */
export const usePictures = () => {
  const project = useProject()?.id ?? 0;
  return useQuery({
    queryKey: ["pictures", project],
    queryFn: () => take(api.GET("/api/pictures", { params: { query: { project } } })).then((p) => p ?? []),
  });
};

/** smallPicture is the address of a picture as a list shows it. */
export const smallPicture = (p: Schemas["Drawn"]) =>
  `/api/pictures/small.png?name=${encodeURIComponent(p.name)}&sha256=${p.sha256}`;

/** useImport is where an import stands that was sent with a word. */
export const useImport = (word: string) =>
  useQuery({
    queryKey: ["import", word],
    enabled: word !== "",
    refetchInterval: 700,
    queryFn: () => take(api.GET("/api/imports/{word}", { params: { path: { word } } })),
  });

/** scenePicture is the address of a scene's shape seen from a view. */
export const scenePicture = (id: number, view = "") => `/api/scenes/${id}/picture.png?view=${encodeURIComponent(view)}`;

/** usePreflight is what was found of a scene as it stands; leaving gives up a check that nobody else waits for. */
export const usePreflight = (scene: SceneBody) =>
  useQuery<Schemas["Report"]>({
    queryKey: ["preflight", scene.scene.id, scene.setup.version, scene.views],
    staleTime: Infinity,
    placeholderData: (old) => old,
    queryFn: ({ signal }) =>
      take(api.GET("/api/scenes/{id}/preflight", { params: { path: { id: scene.scene.id } }, signal })),
  });

/** useChecking is how far the check of a scene is. */
export const useChecking = (id: number, on: boolean) =>
  useQuery({
    queryKey: ["checking", id],
    enabled: on,
    refetchInterval: 500,
    queryFn: () => take(api.GET("/api/scenes/{id}/preflight/progress", { params: { path: { id } } })),
  });

export const saveSetup = ({ id, ...body }: { id: number; version: number; setup: Schemas["Setup"] }) =>
  take(api.PUT("/api/scenes/{id}/setup", { params: { path: { id } }, body }));
export const compareSetup = ({ id, ...body }: { id: number; setup: Schemas["Setup"]; base: Schemas["Setup"] }) =>
  take(api.POST("/api/scenes/{id}/setup/compare", { params: { path: { id } }, body }));
export const dropParts = ({ id, parts }: { id: number; parts: string[] }) =>
  take(api.POST("/api/scenes/{id}/drop", { params: { path: { id } }, body: { parts } }));
/** moveParts is how parts are changed when they are moved as one, from where changes have them. */
export const moveParts = (id: number, begin: Schemas["Change"][], by: Schemas["Together"]) =>
  take(api.POST("/api/scenes/{id}/moved", { params: { path: { id } }, body: { begin, by } }));
/** growFaces is a set of faces of a part; nothing is saved. */
export const growFaces = ({
  id,
  point,
  ...body
}: { id: number; point: number[] } & Omit<Schemas["Grow-facesRequest"], "point">) =>
  take(api.POST("/api/scenes/{id}/faces", { params: { path: { id } }, body: { ...body, point } }));
export const workOutStage = ({
  id,
  ...body
}: {
  id: number;
  what: "new" | "around" | "measure";
  stage?: Schemas["Stage"];
}) => take(api.POST("/api/scenes/{id}/stage", { params: { path: { id } }, body }));
/** renderSmall renders a small picture at once. */
export const renderSmall = (id: number, body: Schemas["Wish"], signal: AbortSignal) =>
  take(
    api.POST("/api/scenes/{id}/small", { params: { path: { id } }, body, signal, parseAs: "blob" }),
  ) as unknown as Promise<Blob>;
export const takeSetup = ({ id, ...body }: { id: number; version: number; scene: number }) =>
  take(api.POST("/api/scenes/{id}/setup/from", { params: { path: { id } }, body }));

export const changeScene = ({ id, ...body }: { id: number; name?: string; putAway?: boolean }) =>
  take(api.PATCH("/api/scenes/{id}", { params: { path: { id } }, body }));
export const removeScene = (id: number) => take(api.DELETE("/api/scenes/{id}", { params: { path: { id } } }));

/** useShelf is the starter set of finishes. */
export const useShelf = () =>
  useQuery({ queryKey: ["shelf"], staleTime: Infinity, queryFn: () => take(api.GET("/api/shelf")) });
/** ballOf is the address of a ball that wears a finish, as the set-up of a version has it. */
export const ballOf = (scene: SceneBody, finish: string) =>
  `/api/scenes/${scene.scene.id}/ball.png?finish=${encodeURIComponent(finish)}&v=${scene.setup.version}`;

/** useKept are the live pictures of a scene that were kept, oldest first. */
export const useKept = (id: number) =>
  useQuery({
    queryKey: ["kept", id],
    queryFn: () => take(api.GET("/api/scenes/{id}/kept", { params: { path: { id } } })),
  });
export const keptPicture = (id: number) => `/api/kept/${id}/picture.png`;
/** readKept is a kept picture with all that it was made of. */
export const readKept = (id: number) => take(api.GET("/api/kept/{id}", { params: { path: { id } } }));
export const removeKept = (id: number) => take(api.DELETE("/api/kept/{id}", { params: { path: { id } } }));

/** frameScene works out a camera; nothing is saved. */
export const frameScene = ({ id, ...body }: { id: number } & Schemas["Framing"]) =>
  take(api.POST("/api/scenes/{id}/framed", { params: { path: { id } }, body }));
export const saveView = (v: { scene: number; name: string; camera: Camera }) =>
  take(
    api.POST("/api/scenes/{id}/views", { params: { path: { id: v.scene } }, body: { name: v.name, camera: v.camera } }),
  );
export const changeView = ({
  id,
  ...body
}: {
  id: number;
  /** Of the view as it was seen. */
  version: number;
  name?: string;
  locked?: boolean;
  camera?: Camera;
}) => take(api.PATCH("/api/views/{id}", { params: { path: { id } }, body }));
export const removeView = (id: number) => take(api.DELETE("/api/views/{id}", { params: { path: { id } } }));
