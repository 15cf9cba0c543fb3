import { client, open, over } from "./connection";
import type { components } from "./schema";
import type { PlanChoices } from "./types";

/** What is foreseen: plans, decisions, bridges, strokes that are only tried. */
export const plans = {
  setPlan: (reading_id: string, revision: number, body: PlanChoices) =>
    open(client.PUT("/api/readings/{reading_id}/plan", { params: over(revision, { reading_id }), body })),
  makePlan: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/plan", { params: { path: { reading_id } } })),
  plan: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/plan", { params: { path: { reading_id } } })),
  makeDecision: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/decision", { params: { path: { reading_id } } })),
  decision: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/decision", { params: { path: { reading_id } } })),
  makeBridge: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/bridge", { params: { path: { reading_id } } })),
  bridge: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/bridge", { params: { path: { reading_id } } })),
  makeBridgePlan: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/bridge/plan", { params: { path: { reading_id } } })),
  setBridgePath: (reading_id: string, revision: number, direction: [number, number, number] | null) =>
    open(
      client.PUT("/api/readings/{reading_id}/bridge/plan/path", {
        params: over(revision, { reading_id }),
        body: { direction },
      }),
    ),
  bridgePlan: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/bridge/plan", { params: { path: { reading_id } } })),
  whatIf: (reading_id: string, standard_id: string, version?: number) =>
    open(
      client.GET("/api/readings/{reading_id}/what-if", {
        params: { path: { reading_id }, query: { standard_id, version } },
      }),
    ),
  predict: (reading_id: string, strokes: components["schemas"]["StrokeOfBur"][]) =>
    open(
      client.POST("/api/readings/{reading_id}/predict", {
        params: { path: { reading_id } },
        body: { strokes },
      }),
    ),
  veneers: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/veneers", { params: { path: { reading_id } } })),
  timeline: (site_id: string) =>
    open(client.GET("/api/sites/{site_id}/timeline", { params: { path: { site_id } } })),
};
