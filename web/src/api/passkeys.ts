import { useQuery } from "@tanstack/react-query";
import { begin, send } from "./doors";

export type Passkey = { id: number; name: string; site: string; created: string; used: string | null };

export const usePasskeys = () =>
  useQuery({ queryKey: ["passkeys"], queryFn: () => send<Passkey[]>("GET", "/api/me/passkeys") });

/** canPasskey tells whether this browser knows passkeys, and has the server open under a name. */
export const canPasskey = () =>
  typeof PublicKeyCredential !== "undefined" && isSecureContext && !/^[\d.]+$|^\[/.test(location.hostname);

/** addPasskey has the browser make a passkey, which the password allows. */
export async function addPasskey({ name, password }: { name: string; password: string }) {
  const { publicKey } = await send<{ publicKey: PublicKeyCredentialCreationOptionsJSON }>("POST", "/api/me/passkeys", {
    password,
  });
  const made = await navigator.credentials.create({
    publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(publicKey),
  });
  return send("PUT", "/api/me/passkeys", { name, passkey: (made as PublicKeyCredential).toJSON() as object });
}

export const removePasskey = (id: number) => send("DELETE", `/api/me/passkeys/${id}`);

/** signInByPasskey has the browser ask which passkey to sign in by. */
export async function signInByPasskey() {
  const { publicKey } = await send<{ publicKey: PublicKeyCredentialRequestOptionsJSON }>("POST", "/api/passkey");
  const signed = await navigator.credentials.get({
    publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(publicKey),
  });
  await send("PUT", "/api/passkey", (signed as PublicKeyCredential).toJSON() as object);
  begin();
}
