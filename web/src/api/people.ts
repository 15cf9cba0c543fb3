import { client, open } from "./connection";
import type { Person } from "./types";

/** Who uses the program, and what is shared with whom. */
export const people = {
  whoIsHere: () => open(client.GET("/api/session")),
  signIn: (name: string, password: string) => open(client.POST("/api/session", { body: { name, password } })),
  signOut: () => open(client.DELETE("/api/session")),
  signOutEverywhere: () => open(client.DELETE("/api/sessions")),
  changeOwnPassword: (now: string, password: string) =>
    open(client.PUT("/api/session/password", { body: { now, password } })),
  people: () => open(client.GET("/api/people")),
  addPerson: (name: string, role: Person["role"], password: string) =>
    open(client.POST("/api/people", { body: { name, role, password } })),
  changePassword: (person_id: string, password: string) =>
    open(
      client.PUT("/api/people/{person_id}/password", { params: { path: { person_id } }, body: { password } }),
    ),
  removePerson: (person_id: string) =>
    open(client.DELETE("/api/people/{person_id}", { params: { path: { person_id } } })),
  shared: (case_id: string) =>
    open(client.GET("/api/cases/{case_id}/shared", { params: { path: { case_id } } })),
  share: (case_id: string, people: string[]) =>
    open(client.PUT("/api/cases/{case_id}/shared", { params: { path: { case_id } }, body: { people } })),
};
