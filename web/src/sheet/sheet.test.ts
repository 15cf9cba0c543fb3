import { describe, expect, it } from "vitest";
import { parseMesh } from "./blob";
import { cross, dot, turned, unit } from "./vectors";
import { viewFor, viewOf, type Frame, type ViewName } from "./views";

const frame: Frame = { occlusal: [0, 0, 1], facial: [0, 1, 0], mesial: [1, 0, 0] };

describe("mesh blob", () => {
  it("reads what the server lays out", () => {
    const buffer = new ArrayBuffer(8 + 24 * 3 + 12);
    new Uint32Array(buffer, 0, 2).set([3, 1]);
    new Float32Array(buffer, 8, 9).set([0, 0, 0, 1, 0, 0, 0, 1, 0]);
    new Uint32Array(buffer, 80, 3).set([0, 1, 2]);
    const mesh = parseMesh(buffer);
    expect([...mesh.indices]).toEqual([0, 1, 2]);
    expect(mesh.positions[3]).toBe(1);
  });

  it("refuses a blob that is cut short", () => {
    const buffer = new ArrayBuffer(40);
    new Uint32Array(buffer, 0, 2).set([3, 1]);
    expect(() => parseMesh(buffer)).toThrow("not as long");
  });
});

describe("views", () => {
  it("looks from where it says", () => {
    expect(viewOf("occlusal", frame).eye).toEqual([0, 0, 1]);
    const sides: Record<string, number> = { facial: 1, lingual: -1 };
    for (const [name, sign] of Object.entries(sides)) {
      expect(Math.sign(viewOf(name as ViewName, frame).eye[1])).toBe(sign);
    }
    expect(viewOf("mesial", frame).eye[0]).toBeGreaterThan(0.5);
    expect(viewOf("distal", frame).eye[0]).toBeLessThan(-0.5);
  });

  it("turns to the side on which a wall's fault lies, and on top to the top", () => {
    expect(viewFor([0, 5, 1], [0, 0, 0], frame, "wall/facial/middle")).toBe("facial");
    expect(viewFor([-5, 1, 1], [0, 0, 0], frame, "finish-line-band")).toBe("distal");
    expect(viewFor([0, 5, 1], [0, 0, 0], frame, "functional-cusp/distal")).toBe("occlusal");
    expect(viewFor([0, 5, 1], [0, 0, 0], frame, "facial/cervical")).toBe("facial");
    expect(viewFor([-4, 1, 1], [0, 0, 0], frame, "proximal/distal")).toBe("facial");
    expect(viewFor([0, -1, 1], [0, 0, 0], frame, "wrap/depth")).toBe("lingual");
  });
});

describe("vectors", () => {
  it("turns by Rodrigues' formula", () => {
    const v = turned([1, 0, 0], [0, 0, 1], Math.PI / 2);
    expect(v[0]).toBeCloseTo(0);
    expect(v[1]).toBeCloseTo(1);
    expect(dot(unit([3, 4, 0]), [1, 0, 0])).toBeCloseTo(0.6);
    expect(cross([1, 0, 0], [0, 1, 0])).toEqual([0, 0, 1]);
  });
});
