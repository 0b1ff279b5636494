import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import { api, take, Trouble } from "../api/client";
import { Head } from "../ui/Frame";
import { useKeys } from "../ui/keys";
import { bytes } from "../ui/format";
import { Empty, Loading, Problem } from "../ui/states";

export function Specs() {
  const specs = useQuery({ queryKey: ["specs"], queryFn: () => take(api.GET("/api/specs")) });
  const client = useQueryClient();
  const refused = useQuery({ queryKey: ["specs", "refused"], queryFn: () => take(api.GET("/api/specs/refused")) });
  const read = useMutation({ mutationFn: () => take(api.POST("/api/specs/read")), onSettled: () => client.invalidateQueries() });
  useKeys([{ key: "r", does: "read the spec files again", run: () => read.mutate() }]);
  if (specs.isPending) return <Loading what="the register" />;
  if (!specs.data) return <Problem error={specs.error} again={() => void specs.refetch()} />;
  const kinds = [...new Set(specs.data.map((s) => s.recipient.kind))].sort();
  return (
    <>
      <Head title="Specs">
        <button className="btn btn-sm" onClick={() => read.mutate()} disabled={read.isPending}>Read the files again</button>
      </Head>
      {read.isError && <Problem error={read.error} />}
      {refused.data?.refused.map((r) => <Problem key={r.file} error={new Trouble(`Left out of the register: ${r.what}`, r.way_out)} />)}
      {specs.data.length === 0 && <Empty title="The register is empty">Spec files in specs/ are read when the server starts.</Empty>}
      <table className="rows w-full">
        <thead><tr className="muted"><th>spec</th><th>recipient</th><th>what it asks</th><th className="text-right">cap</th><th>version</th></tr></thead>
        {kinds.map((kind) => (
          <tbody key={kind}>
            <tr className="group"><th colSpan={5} scope="rowgroup">{kind}</th></tr>
            {specs.data.filter((s) => s.recipient.kind === kind).map((s) => (
              <tr key={s.id} className="hover:bg-base-200">
                <td><Link className="font-semibold hover:underline" to={`/specs/${s.id}`}>{s.title}</Link></td>
                <td>{s.recipient.name}<div className="muted">line {s.recipient.line_rate}</div></td>
                <td>{s.summary}</td>
                <td className="figure text-right whitespace-nowrap">{s.cap ? bytes(s.cap) : ""}</td>
                <td className="whitespace-nowrap"><span className="figure">{s.version}</span>, {s.status}</td>
              </tr>
            ))}
          </tbody>
        ))}
      </table>
    </>
  );
}
