import type { APIRoute } from "astro";
import { answer, respond } from "#server/http";
import { services } from "#server/services";

export const POST: APIRoute = ({ params }) =>
  respond(async () => answer({ id: await (await services()).projects.duplicate(params.id!) }, 201));
