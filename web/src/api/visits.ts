import { client, open, over } from "./connection";
import type { components } from "./schema";
import type { VisitNotes } from "./types";

/** The visit at the chair, and files that come in meanwhile. */
export const visits = {
  visitSteps: () => open(client.GET("/api/visit-steps")),
  setVisitSteps: (body: components["schemas"]["StepsModel"]) =>
    open(client.PUT("/api/visit-steps", { body })),
  /** The list that ships again. */
  forgetVisitSteps: (revision: number) =>
    open(client.DELETE("/api/visit-steps", { params: { query: { revision } } })),
  visitTimers: () => open(client.GET("/api/visit-timers")),
  setVisitTimers: (body: components["schemas"]["TimersModel"]) =>
    open(client.PUT("/api/visit-timers", { body })),
  /** Those that ship again. */
  forgetVisitTimers: (revision: number) =>
    open(client.DELETE("/api/visit-timers", { params: { query: { revision } } })),
  visit: (case_id: string) =>
    open(client.GET("/api/cases/{case_id}/visit", { params: { path: { case_id } } })),
  startEntry: (case_id: string, kind: "step" | "timer", name: string) =>
    open(
      client.POST("/api/cases/{case_id}/visit/entries", {
        params: { path: { case_id } },
        body: { kind, name },
      }),
    ),
  stopEntry: (case_id: string, entry_id: string) =>
    open(
      client.POST("/api/cases/{case_id}/visit/entries/{entry_id}/stop", {
        params: { path: { case_id, entry_id } },
      }),
    ),
  setVisitNotes: (case_id: string, revision: number, body: VisitNotes) =>
    open(client.PUT("/api/cases/{case_id}/visit/notes", { params: over(revision, { case_id }), body })),
  arrivals: (after: string) => open(client.GET("/api/arrivals", { params: { query: { after } } })),
};
