/** One of some values, small, with its name before it. */
export function Choice({
  label,
  values,
  value,
  set,
}: {
  label: string;
  values: string[];
  value: string;
  set: (v: string) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      <span className="muted">{label}</span>
      <select
        className="select select-xs w-auto min-w-16"
        value={value}
        onChange={(e) => set(e.target.value)}
      >
        {values.map((v) => (
          <option key={v}>{v}</option>
        ))}
      </select>
    </label>
  );
}
