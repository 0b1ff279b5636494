type Way = { value: string; label: string };

/** A few ways, of which one is taken. */
export function Ways({
  legend,
  name,
  ways,
  taken,
  take,
}: {
  legend: string;
  name: string;
  ways: Way[];
  taken: string;
  take: (value: string) => void;
}) {
  return (
    <fieldset>
      <legend className="font-semibold">{legend}</legend>
      {ways.map((w) => (
        <label key={w.value} className="block">
          <input
            type="radio"
            className="radio radio-xs"
            name={name}
            checked={taken === w.value}
            onChange={() => take(w.value)}
          />{" "}
          {w.label}
        </label>
      ))}
    </fieldset>
  );
}
