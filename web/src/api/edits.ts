import { client, open, over, bytesOf } from "./connection";
import type { components } from "./schema";
import type { Pin, Pairs, EditKind } from "./types";

/** What somebody sets by hand: axes, pairs, lines, paths, ticks, pins. */
export const edits = {
  guessAxes: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/axes/guess", { params: { path: { reading_id } } })),
  setAxes: (reading_id: string, revision: number, body: components["schemas"]["AxesIn"]) =>
    open(
      client.PUT("/api/readings/{reading_id}/axes", {
        params: over(revision, { reading_id }),
        body,
      }),
    ),
  /** The same places on an earlier scan and on the preparation's; none: forget them. */
  setPairs: (reading_id: string, role: "preop" | "mockup", revision: number, body: Pairs) =>
    open(
      client.PUT("/api/readings/{reading_id}/pairs/{role}", {
        params: over(revision, { reading_id, role }),
        body,
      }),
    ),
  drawLine: (reading_id: string, revision: number, body: components["schemas"]["StrokeIn"]) =>
    open(
      client.POST("/api/readings/{reading_id}/line/strokes", {
        params: over(revision, { reading_id }),
        body,
      }),
    ),
  forgetLine: (reading_id: string, revision: number) =>
    open(
      client.DELETE("/api/readings/{reading_id}/line", {
        params: over(revision, { reading_id }),
      }),
    ),
  setCurve: (reading_id: string, kind: "gingiva" | "core", revision: number, points: number[][] | null) =>
    open(
      client.PUT("/api/readings/{reading_id}/curves/{kind}", {
        params: over(revision, { reading_id, kind }),
        body: { points },
      }),
    ),
  undo: (reading_id: string, kind: EditKind, revision: number) =>
    open(
      client.POST("/api/readings/{reading_id}/edits/{kind}/undo", {
        params: over(revision, { reading_id, kind }),
      }),
    ),
  makeReady: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/ready", { params: { path: { reading_id } } })),
  /** Draft in degrees at every vertex of a shown mesh, along a path that is only tried. */
  draft: async (reading_id: string, direction: number[], detail: "light" | "rest") => {
    const query = direction.map((v) => `direction=${v}`).join("&");
    return new Float32Array(
      await bytesOf(
        `/api/readings/${reading_id}/draw?${query}&detail=${detail}`,
        "The path could not be tried; try again.",
      ),
    );
  },
  /** Undercuts along a path that is only tried. */
  tryPath: (reading_id: string, direction: number[]) =>
    open(
      client.GET("/api/readings/{reading_id}/undercut", {
        params: { path: { reading_id }, query: { direction } },
      }),
    ),
  setPath: (reading_id: string, revision: number, direction: number[] | null) =>
    open(
      client.PUT("/api/readings/{reading_id}/path", {
        params: over(revision, { reading_id }),
        body: { direction },
      }),
    ),
  setTicks: (reading_id: string, revision: number, keys: string[]) =>
    open(
      client.PUT("/api/readings/{reading_id}/ticks", {
        params: over(revision, { reading_id }),
        body: { keys },
      }),
    ),
  setPins: (reading_id: string, revision: number, pins: Pin[]) =>
    open(
      client.PUT("/api/readings/{reading_id}/pins", {
        params: over(revision, { reading_id }),
        body: { pins },
      }),
    ),
};
