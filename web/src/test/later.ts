/** A promise that a test settles when it wants to. */
export function later<T>() {
  let resolve!: (value: T) => void;
  let reject!: (error: unknown) => void;
  const promise = new Promise<T>((yes, no) => ([resolve, reject] = [yes, no]));
  return { promise, resolve, reject };
}

/** Let everything that can go on without the test go on. */
export const settle = async () => {
  for (let k = 0; k < 20; k++) await Promise.resolve();
};
