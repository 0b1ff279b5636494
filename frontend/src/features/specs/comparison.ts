/** Where two versions of one spec stand side by side. */
export function comparison(spec: string, older: number, newer: number): string {
  const query = new URLSearchParams({
    left: spec,
    left_version: String(older),
    right: spec,
    right_version: String(newer),
  });
  return `/specs/compare?${query.toString()}`;
}
