import { useEffect, useState } from "react";
import type { components } from "../api/schema";
import { useLatest } from "../shared/useLatest";

type Schemas = components["schemas"];
export type Round = Schemas["GuestRound"];
export type Picture = Schemas["GuestPicture"];
export type Remark = Schemas["Remark"];
export type Answer = Schemas["Said"]["verdict"];
type Opened = { session: string; phrase: boolean; name: string };

/** What the server said was wrong, in its words. */
export class Wrong extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** What this page is known by, as long as it is open. */
let session = "";

async function ask(method: string, path: string, body?: object): Promise<Response> {
  const response = await fetch(`/api/link/${path}`, {
    method,
    headers: { Authorization: `Bearer ${session}`, ...(body ? { "Content-Type": "application/json" } : {}) },
    ...(body ? { body: JSON.stringify(body) } : {}),
  }).catch(() => {
    throw new Wrong("", 0);
  });
  if (response.ok) return response;
  const said = (await response.json().catch(() => ({}))) as { detail?: string };
  throw new Wrong(said.detail ?? `${response.status}`, response.status);
}

const json = async <T>(method: string, path: string, body?: object) =>
  (await (await ask(method, path, body)).json()) as T;

/** openLink lets the bearer of a token in under a name. */
export async function openLink(token: string, phrase: string, name: string): Promise<Opened> {
  const v = await json<Opened>("POST", "open", { token, phrase, name });
  if (v.session) remember(v.session);
  return v;
}

const kept = "look";

function remember(v: string) {
  session = v;
  sessionStorage.setItem(kept, v);
}

/** resume goes on with what this tab was known by before it was loaded again. */
export function resume(): boolean {
  session = sessionStorage.getItem(kept) ?? "";
  return session !== "";
}

/** forget has the tab be asked for a name again. */
export function forget() {
  sessionStorage.removeItem(kept);
  session = "";
}

export const getRound = () => json<Round>("GET", "round");
export const getRemarks = (proof: number) => json<Remark[]>("GET", `proofs/${proof}/remarks`);
export const makeRemark = (proof: number, body: Schemas["ToRemark"]) =>
  json<Remark[]>("POST", `proofs/${proof}/remarks`, body);
export const sayInRemark = (remark: number, body: Schemas["Say"]) =>
  json<Remark[]>("POST", `remarks/${remark}/lines`, body);
export const answer = (body: Schemas["Said"]) => json<Round>("POST", "answers", body);

/** original saves a picture whole. */
export async function original(p: Picture, pass: string) {
  const blob = await (await ask("GET", `proofs/${p.id}/original.png?${new URLSearchParams({ pass })}`)).blob();
  const a = document.createElement("a");
  a.href = URL.createObjectURL(blob);
  a.download = `${p.view}.png`;
  a.click();
  URL.revokeObjectURL(a.href);
}

/** How often the page asks what others have said, in milliseconds. */
const often = 4000;

/** useAsked asks for something now and again, for as long as it is looked at. */
export function useAsked<T>(key: string, get: () => Promise<T>) {
  const [data, setData] = useState<{ key: string; value: T }>();
  const [wrong, setWrong] = useState<Wrong | null>(null);
  const latest = useLatest(get);
  useEffect(() => {
    let gone = false;
    let timer = 0;
    const once = async () => {
      try {
        const value = await latest.current();
        if (gone) return;
        setData({ key, value });
        setWrong(null);
      } catch (e) {
        if (!gone) setWrong(e as Wrong);
      }
      if (!gone) timer = window.setTimeout(() => void once(), document.hidden ? 5 * often : often);
    };
    void once();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [key, latest]);
  return { data: data?.key === key ? data.value : undefined, wrong, put: (value: T) => setData({ key, value }) };
}

const photos = new Map<string, Promise<string>>();

/** usePhoto is a picture as an address of this page; pictures never change, so each is fetched once. */
export function usePhoto(proof: number, pass: string, side: number): string | undefined {
  const path = `proofs/${proof}/picture.jpg?${new URLSearchParams({ pass, side: String(side) })}`;
  const [got, setGot] = useState<{ path: string; url: string }>();
  useEffect(() => {
    let gone = false;
    const photo =
      photos.get(path) ??
      ask("GET", path)
        .then((r) => r.blob())
        .then((b) => URL.createObjectURL(b));
    photos.set(path, photo);
    photo.then(
      (url) => !gone && setGot({ path, url }),
      () => photos.delete(path),
    );
    return () => {
      gone = true;
    };
  }, [path]);
  return got?.path.startsWith(`proofs/${proof}/`) ? got.url : undefined;
}
