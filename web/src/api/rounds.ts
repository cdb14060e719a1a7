import { useQuery } from "@tanstack/react-query";
import { unlessHeard } from "./live";
import { api, take, type Schemas } from "./http";

export type Round = Schemas["Round"];
export type Board = Schemas["Board"];
export type ProofUp = Schemas["Proof"];
export type Remark = Schemas["Remark"];
export type Terms = Schemas["Terms"];
export type Verdict = Round["verdict"];
export type Answer = Schemas["Said"]["verdict"];

/** useBoard is the rounds of a project, what is up in them, and who is asked. */
export const useBoard = (project: number | undefined) =>
  useQuery({
    queryKey: ["board", project],
    enabled: project !== undefined,
    refetchInterval: unlessHeard,
    queryFn: () => take(api.GET("/api/projects/{id}/board", { params: { path: { id: project! } } })),
  });

export const useRound = (id: number) =>
  useQuery({
    queryKey: ["round", id],
    refetchInterval: unlessHeard,
    queryFn: () => take(api.GET("/api/rounds/{id}", { params: { path: { id } } })),
  });

/** useChanged is what changed since the same view was put up before; it never changes again. */
export const useChanged = (proof: number | undefined) =>
  useQuery({
    queryKey: ["changed", proof],
    enabled: proof !== undefined,
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/proofs/{id}/changed", { params: { path: { id: proof! } } })),
  });

/** useDifference is what changed in the picture since the same view was put up before. */
export const useDifference = (proof: number) =>
  useQuery({
    queryKey: ["difference", proof],
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/proofs/{id}/difference", { params: { path: { id: proof } } })),
  });

/** differencePicture is the address of a picture that is dark but for what changed. */
export const differencePicture = (p: ProofUp) => `/api/proofs/${p.id}/difference.png`;

/** proofPicture is the address of a picture of a proof, as it was put up; side 0 is all of it. */
export const proofPicture = (p: ProofUp, side: number, pass = "") =>
  `/api/proofs/${p.id}/picture.png?${new URLSearchParams({ side: String(side), pass, v: p.sha256.slice(0, 12) })}`;

/** How a picture of a proof is looked at. */
export type ProofLook = { pass: string; stops: number; less?: { proof: ProofUp; pass: string; gain: number } };

/** lookQuery is a look as part of an address. */
export const lookQuery = (p: ProofUp, { pass, stops, less }: ProofLook) =>
  new URLSearchParams({
    pass,
    ev: String(stops),
    v: p.sha256.slice(0, 12),
    ...(less && { less: String(less.proof.id), lessPass: less.pass, gain: String(less.gain) }),
  }).toString();

/** tileURL is the address of a part of a picture of a proof. */
export const tileURL = (p: ProofUp, query: string, t: { level: number; x: number; y: number }) =>
  `/api/proofs/${p.id}/tile.png?level=${t.level}&x=${t.x}&y=${t.y}&${query}`;

/** useLay is where the frame of another proof lies in the frame of one. */
export const useLay = (proof: number, other: number) =>
  useQuery({
    queryKey: ["lay", proof, other],
    enabled: proof !== other,
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/proofs/{id}/lay", { params: { path: { id: proof }, query: { over: other } } })),
  });

export const makeRound = ({ project, ...body }: { project: number } & Terms) =>
  take(api.POST("/api/projects/{id}/rounds", { params: { path: { id: project } }, body }));
export const changeRound = ({ id, version, terms }: { id: number; version: number; terms: Terms }) =>
  take(api.PUT("/api/rounds/{id}", { params: { path: { id } }, body: { version, terms } }));
export const removeRound = (id: number) => take(api.DELETE("/api/rounds/{id}", { params: { path: { id } } }));
export const beginRound = ({ id, why }: { id: number; why: string }) =>
  take(api.PUT("/api/rounds/{id}/begin", { params: { path: { id } }, body: { why } }));
export const putUp = ({ round, ...body }: { round: number; run: number; passes: string[] }) =>
  take(api.POST("/api/rounds/{id}/proofs", { params: { path: { id: round } }, body }));
export const withdrawProof = (id: number) => take(api.DELETE("/api/proofs/{id}", { params: { path: { id } } }));
export const answerRound = ({ id, ...body }: { id: number } & Schemas["Said"]) =>
  take(api.POST("/api/rounds/{id}/answers", { params: { path: { id } }, body }));

/** useRemarks are those about the scene of a proof, and where they are seen in it. */
export const useRemarks = (proof: number | undefined) =>
  useQuery({
    queryKey: ["remarks", proof],
    enabled: proof !== undefined,
    refetchInterval: unlessHeard,
    queryFn: async () => (await take(api.GET("/api/proofs/{id}/remarks", { params: { path: { id: proof! } } }))) ?? [],
  });

/** useSpot is what a remark at a point of a proof would be about. */
export const useSpot = (proof: number, x: number, y: number) =>
  useQuery({
    queryKey: ["spot", proof, x, y],
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/proofs/{id}/spot", { params: { path: { id: proof }, query: { x, y } } })),
  });

/** useTopics are the settings that a remark on a proof can be about. */
export const useTopics = (proof: number) =>
  useQuery({
    queryKey: ["topics", proof],
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/proofs/{id}/topics", { params: { path: { id: proof } } })),
  });

/** useWanted are the open remarks about settings of a job, as its ticket is in a version. */
export const useWanted = (job: number, version: number | undefined) =>
  useQuery({
    queryKey: ["remarks", "of job", job, version],
    enabled: version !== undefined,
    placeholderData: (was) => was,
    queryFn: () => take(api.GET("/api/jobs/{id}/remarks", { params: { path: { id: job } } })),
  });

/** useProofParts are the parts that are seen in a proof, and where. */
export const useProofParts = (proof: number) =>
  useQuery({
    queryKey: ["proof parts", proof],
    staleTime: Infinity,
    queryFn: async () => (await take(api.GET("/api/proofs/{id}/parts", { params: { path: { id: proof } } }))) ?? [],
  });

export const makeRemark = ({ proof, ...body }: { proof: number } & Schemas["ToRemark"]) =>
  take(api.POST("/api/proofs/{id}/remarks", { params: { path: { id: proof } }, body }));
export const sayInRemark = ({ remark, ...body }: { remark: number } & Schemas["Say"]) =>
  take(api.POST("/api/remarks/{id}/lines", { params: { path: { id: remark } }, body }));
