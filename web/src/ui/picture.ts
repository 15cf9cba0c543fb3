import { toCanvas } from "html-to-image";

const [EDGE, HEAD] = [16, 44]; // px round the picture, and for its title

/** Parts of the page, as they are seen, under one another in a PNG with a title. */
export async function pictureOf(
  title: string,
  parts: HTMLElement[],
  ground: string,
  ink: string,
): Promise<Blob> {
  const kept = (node: HTMLElement) => node.dataset?.picture !== "no"; // what is pressed is not part of the picture
  const options = { pixelRatio: 1, backgroundColor: ground, filter: kept };
  const drawn = [];
  for (const part of parts) drawn.push(await toCanvas(part, options));
  const width = Math.max(...drawn.map((canvas) => canvas.width));
  const height = drawn.reduce((sum, canvas) => sum + canvas.height + EDGE, HEAD + EDGE);
  const whole = document.createElement("canvas");
  [whole.width, whole.height] = [width + 2 * EDGE, height];
  const pen = whole.getContext("2d");
  if (!pen) throw new Error("This browser gives no picture.");
  pen.fillStyle = ground;
  pen.fillRect(0, 0, whole.width, whole.height);
  pen.fillStyle = ink;
  pen.font = `600 20px ${getComputedStyle(document.body).fontFamily}`;
  pen.fillText(title, EDGE, 30, width);
  let top = HEAD;
  for (const canvas of drawn) {
    pen.drawImage(canvas, EDGE, top);
    top += canvas.height + EDGE;
  }
  return new Promise((give, fail) =>
    whole.toBlob(
      (blob) => (blob ? give(blob) : fail(new Error("This browser gives no picture."))),
      "image/png",
    ),
  );
}

/** Let the person keep a file. */
export function keepFile(blob: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
