import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";

export type Message = Schemas["Message"];
export type Webhook = Schemas["Webhook"];
export type WebhookTerms = Schemas["WebhookTerms"];
export type EventKind = string;
export type Mail = Schemas["Mail"];

const often = 2000;

/** Which messages of a project: mail, or those to one webhook; those that came before one, or the newest. */
export type MessageChoice = { project: number; webhook: number; before: number };

export const useMessages = ({ project, webhook, before }: MessageChoice) =>
  useQuery({
    queryKey: ["messages", project, webhook, before],
    refetchInterval: often,
    placeholderData: (was) => was,
    queryFn: () =>
      take(api.GET("/api/projects/{id}/messages", { params: { path: { id: project }, query: { webhook, before } } })),
  });

export const retryMessage = (id: number) => take(api.POST("/api/messages/{id}/retry", { params: { path: { id } } }));

export const useWebhooks = (project: number) =>
  useQuery({
    queryKey: ["webhooks", project],
    queryFn: () => take(api.GET("/api/projects/{id}/webhooks", { params: { path: { id: project } } })),
  });

export const addWebhook = ({ project, ...body }: WebhookTerms & { project: number }) =>
  take(api.POST("/api/projects/{id}/webhooks", { params: { path: { id: project } }, body }));

export const changeWebhook = ({ id, ...body }: WebhookTerms & { id: number }) =>
  take(api.PUT("/api/webhooks/{id}", { params: { path: { id } }, body }));

export const removeWebhook = (id: number) => take(api.DELETE("/api/webhooks/{id}", { params: { path: { id } } }));

/** useStandIn is what the stand-in for another program got. */
export const useStandIn = (project: number) =>
  useQuery({
    queryKey: ["stand-in", project],
    refetchInterval: often,
    queryFn: () => take(api.GET("/api/projects/{id}/stand-in", { params: { path: { id: project } } })),
  });

export const setStandIn = ({ project, refuses }: { project: number; refuses: number }) =>
  take(api.PUT("/api/projects/{id}/stand-in", { params: { path: { id: project } }, body: { refuses } }));

export const useMyMail = () => useQuery({ queryKey: ["my mail"], queryFn: () => take(api.GET("/api/me/mail")) });

export const setMyMail = (body: Mail) => take(api.PUT("/api/me/mail", { body }));

export const setMail = ({ project, person, address }: { project: number; person: number; address: string }) =>
  take(
    api.PUT("/api/projects/{id}/people/{person}/mail", {
      params: { path: { id: project, person } },
      body: { address },
    }),
  );
