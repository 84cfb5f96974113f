import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, part, readBody, respond } from "#server/http";
import { readMachines } from "#server/machines-file";
import { services } from "#server/services";
import { NotFound } from "#server/store";

export const POST: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { how } = await readBody(API.dismissMachine, request);
    const name = part(params, "name");
    const { renders, renderer } = await services();
    const known = (await readMachines(renders.folder))?.machines.some((m) => m.name === name);
    if (!known || !renderer) throw new NotFound("There is no such machine.");
    renderer.dismiss(name, how);
    return answerTo(API.dismissMachine, { done: true });
  });
