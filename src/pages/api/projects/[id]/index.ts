import type { APIRoute } from "astro";
import { z } from "zod";
import { answer, readJson, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { projects } = await services();
    return answer({ ...(await projects.open(params.id!)), proofs: await projects.listProofs(params.id!) });
  });

const change = z.strictObject({ title: z.string().trim().min(1).max(200).optional(), deleted: z.boolean().optional() });

/** Renames a project, deletes it, or brings it back. */
export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { title, deleted } = await readJson(request, change);
    if (deleted === true) await projects.remove(params.id!);
    if (deleted === false) await projects.restore(params.id!);
    if (title !== undefined) await projects.rename(params.id!, title);
    return answer({ done: true });
  });
