import { client, open } from "./connection";
import type { components } from "./schema";

/** A practice's own: standards, orders of work, burs, the mill, what became of its teeth. */
export const practice = {
  standards: () => open(client.GET("/api/standards")),
  getStandard: (standard_id: string, version?: number) =>
    open(
      client.GET("/api/standards/{standard_id}", { params: { path: { standard_id }, query: { version } } }),
    ),
  saveStandard: (expected_version: number, data: Record<string, unknown>) =>
    open(client.POST("/api/standards", { body: { expected_version, data } })),
  tryStandard: (data: Record<string, unknown>, against: string) =>
    open(client.POST("/api/standards/try", { body: { data, against } })),
  sequences: () => open(client.GET("/api/sequences")),
  sequenceWords: () => open(client.GET("/api/sequence-words")),
  saveSequence: (body: components["schemas"]["SequenceIn"]) => open(client.POST("/api/sequences", { body })),
  tray: () => open(client.GET("/api/tray")),
  genericBurs: () => open(client.GET("/api/burs/generic")),
  setTray: (body: components["schemas"]["TrayModel"]) => open(client.PUT("/api/tray", { body })),
  mill: () => open(client.GET("/api/mill")),
  setMill: (body: components["schemas"]["MillModel"]) => open(client.PUT("/api/mill", { body })),
  career: (query: { restoration: string; material: string; tooth: string; mine: boolean }) =>
    open(client.GET("/api/career", { params: { query } })),
};
