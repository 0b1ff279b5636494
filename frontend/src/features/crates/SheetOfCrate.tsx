import { useState } from "react";
import { useLaySheet } from "../../api/mutations/many";
import { Problem } from "../../ui/states";
import { SheetField, SheetLook } from "./Sheet";

/** The items of a crate as a sheet: out, and changed in a spreadsheet in again. */
export function SheetOfCrate({ crate }: { crate: number }) {
  const [text, setText] = useState("");
  const lay = useLaySheet(crate, { onSuccess: () => setText("") });
  return (
    <section
      aria-label="Sheet of the crate"
      className="mb-2 border-l-4 border-primary bg-base-200 p-2"
    >
      <p className="mb-2">
        <a className="btn btn-xs min-h-7" href={`/api/crates/${crate}/sheet.csv`} download>
          Fetch the items as CSV
        </a>{" "}
        A line whose master and range are here changes that item, any other adds one. An empty cell
        is as planned; columns that are not there change nothing.
      </p>
      <SheetField text={text} set={setText} />
      <SheetLook
        text={text}
        crate={crate}
        act="Take"
        busy={lay.isPending}
        take={(partly) => lay.mutate({ text, partly })}
      />
      {lay.isError && <Problem error={lay.error} />}
      {lay.isSuccess && !text && <p role="status">The sheet was taken.</p>}
    </section>
  );
}
