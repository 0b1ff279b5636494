/** What is said of a crate that is made: its title, and when it is due. */
export function TitleAndDue({
  label = "Title",
  title,
  setTitle,
  due,
  setDue,
}: {
  label?: string;
  title: string;
  setTitle: (title: string) => void;
  due: string;
  setDue: (due: string) => void;
}) {
  return (
    <>
      <label className="font-semibold">
        {label}
        <input
          className="input input-sm block w-72 font-normal"
          value={title}
          maxLength={200}
          onChange={(e) => setTitle(e.target.value)}
        />
      </label>
      <label className="font-semibold">
        Due
        <input
          type="datetime-local"
          className="input input-sm block w-52 font-normal"
          value={due}
          required
          onChange={(e) => setDue(e.target.value)}
        />
      </label>
    </>
  );
}
