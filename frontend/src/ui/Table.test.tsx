import { cleanup, render, screen, within } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { Grouped, Table } from "./Table";

afterEach(cleanup);

describe("a table", () => {
  it("has its heads, those that are not shown too", () => {
    render(
      <Table columns={["name", { head: "select", hidden: true }]} label="Ranges">
        <tbody />
      </Table>,
    );
    const table = screen.getByRole("table", { name: "Ranges" });
    const heads = within(table).getAllByRole("columnheader");
    expect(heads.map((h) => h.textContent)).toEqual(["name", "select"]);
  });

  it("lays rows under their groups, and leaves out groups without any", () => {
    const rows = [
      { group: "sound", name: "layout" },
      { group: "picture", name: "codec" },
      { group: "picture", name: "size" },
    ];
    render(
      <Table>
        <Grouped groups={["picture", "motion", "sound"]} of={(r) => r.group} rows={rows} span={1}>
          {(r) => (
            <tr key={r.name}>
              <td>{r.name}</td>
            </tr>
          )}
        </Grouped>
      </Table>,
    );
    const said = screen.getAllByRole("row").map((r) => r.textContent);
    expect(said).toEqual(["picture", "codec", "size", "sound", "layout"]);
  });
});
