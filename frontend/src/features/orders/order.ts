export type Doc = Record<string, unknown>;

export const fresh = (): Doc => ({
  id: "",
  title: "",
  source: { folder: "" },
  spec: "",
});

/** A part of a document that is a table of names and values. */
export const table = (doc: Doc, name: string): Doc => (doc[name] as Doc | undefined) ?? {};

const isEmpty = (value: unknown) =>
  value === "" ||
  value === null ||
  value === undefined ||
  (Array.isArray(value) && value.length === 0) ||
  (typeof value === "object" && Object.keys(value).length === 0);

/** The document with a value put, or taken away where it is empty. */
export const put = (doc: Doc, name: string, value: unknown): Doc => {
  const others = Object.entries(doc).filter(([key]) => key !== name);
  if (isEmpty(value)) return Object.fromEntries(others);
  return { ...doc, [name]: value };
};

/** Whether all is there that an order needs. */
export const isWhole = (doc: Doc) =>
  ![doc.title, doc.spec, table(doc, "source").folder].some(isEmpty);

/** The same for a value inside a table of the document. */
export const putIn = (doc: Doc, name: string, key: string, value: unknown): Doc =>
  put(doc, name, put(table(doc, name), key, value));

/** An id made of a title: small letters, figures and hyphens. */
export const idOf = (title: string) =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);

/** Lines such as "framing: crop" as a table; a line without a colon is kept as a name. */
export const linesRead = (text: string): Doc =>
  Object.fromEntries(
    text
      .split("\n")
      .map((line) => line.split(/:\s*(.*)/s).map((part) => part.trim()))
      .filter(([name]) => name)
      .map(([name, value]) => [name, value ?? ""]),
  );

export const linesOf = (rows: Doc) =>
  Object.entries(rows)
    .map(([name, value]) => `${name}: ${String(value)}`)
    .join("\n");

/** Words parted by commas or spaces. */
export const words = (text: string) => text.split(/[\s,]+/).filter(Boolean);
