import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readBody, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { projects, proofs } = await services();
    return answerTo(API.openProject, { ...(await projects.open(params.id!)), proofs: await proofs.list(params.id!) });
  });

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { title, deleted } = await readBody(API.changeProject, request);
    if (deleted === true) await projects.remove(params.id!);
    if (deleted === false) await projects.restore(params.id!);
    if (title !== undefined) await projects.rename(params.id!, title);
    return answerTo(API.changeProject, { done: true });
  });
