import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";

export type Deed = Schemas["Deed"];

/** send asks for what sets the session's cookie, which is not among the described operations. */
export async function send<T = void>(method: string, path: string, body?: object): Promise<T> {
  const call = fetch(path, {
    method,
    ...(body ? { headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) } : {}),
  }).then(async (response) => {
    const said: unknown = response.status === 204 ? {} : await response.json();
    return response.ok ? { data: said as T, response } : { error: said, response };
  });
  return take<T>(call);
}

/** begin makes every page anew, for who acts from now on. */
export const begin = () => location.assign("/");

/** actAs has this browser act as somebody, as long as nobody has a password. */
export const actAs = (person: number) => send("PUT", "/api/me", { person }).then(begin);
export const signIn = (name: string, password: string) => send("PUT", "/api/session", { name, password }).then(begin);
export const signOut = () => send("DELETE", "/api/session").then(begin);
export const setPassword = (was: string, password: string) => send("PUT", "/api/me/password", { was, password });

/** invited tells whose link a token is. */
export const invited = (token: string) => send<{ name: string }>("POST", "/api/invitation", { token });
export const acceptInvitation = (token: string, password: string) =>
  send("PUT", "/api/invitation", { token, password }).then(begin);

export const invitePerson = ({ id, person, mail }: { id: number; person: number; mail: boolean }) =>
  take(
    api.POST("/api/projects/{id}/people/{person}/invitation", { params: { path: { id, person }, query: { mail } } }),
  );

export type AuditChoice = { project: number; person: number; did: string; before: number };

/** useAudit is the newest lines of the audit trail. */
export const useAudit = (query: AuditChoice) =>
  useQuery({ queryKey: ["audit", query], queryFn: () => take(api.GET("/api/audit", { params: { query } })) });

export const auditFile = ({ project, person, did }: AuditChoice) =>
  `/api/audit.csv?${new URLSearchParams({ project: String(project), person: String(person), did })}`;
