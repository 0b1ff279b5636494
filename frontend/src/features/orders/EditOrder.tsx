import { useState } from "react";
import { useNavigate, useParams } from "react-router-dom";
import { useKeepOrder } from "../../api/mutations/orders";
import { useOrder, useReadOrder } from "../../api/queries";
import { Button } from "../../ui/Button";
import { PageHead } from "../../ui/PageHead";
import { Loading, Problem } from "../../ui/states";
import { OrderFields } from "./OrderFields";
import { TryOrder } from "./TryOrder";
import { type Doc, fresh, isWhole } from "./order";

/** Writing an order by its fields or as text: read as it is written, tried before it is on. */
export function EditOrder() {
  const { id } = useParams();
  const page = useOrder(id ?? "");
  if (id === undefined) return <Editor start={fresh()} isNew />;
  if (page.isPending) return <Loading what="the order" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  return <Editor key={id} start={page.data.document} isNew={false} />;
}

function Editor({ start, isNew }: { start: Doc; isNew: boolean }) {
  const go = useNavigate();
  const [doc, setDoc] = useState<Doc>(start);
  const [text, setText] = useState<string | null>(null);
  const isReadable = text !== null || isWhole(doc);
  const read = useReadOrder(text === null ? { document: doc } : { text }, isReadable);
  const keep = useKeepOrder({ onSuccess: (made) => void go(`/orders/${made.id}`) });
  const byFields = () => {
    if (read.data && !read.isError) setDoc(read.data.document as Doc);
    setText(null);
  };
  return (
    <>
      <PageHead title={isNew ? "New order" : "Change the order"}>
        <span role="group" aria-label="How it is written" className="flex gap-1">
          <Button
            size="sm"
            tone={text === null ? "secondary" : "plain"}
            aria-pressed={text === null}
            disabled={text !== null && read.isError}
            onClick={byFields}
          >
            By fields
          </Button>
          <Button
            size="sm"
            tone={text === null ? "plain" : "secondary"}
            aria-pressed={text !== null}
            onClick={() => setText(text ?? read.data?.yaml ?? "")}
          >
            As text
          </Button>
        </span>
        <Button
          size="sm"
          tone="primary"
          disabled={keep.isPending || !isReadable || read.isError || !read.data}
          onClick={() => keep.mutate(text === null ? { document: doc } : { text })}
        >
          Keep the order
        </Button>
      </PageHead>
      {keep.isError && <Problem error={keep.error} />}
      <div aria-live="polite" className="mb-3">
        {!isReadable && <p className="muted">An order has a title, a spec and a folder.</p>}
        {isReadable && read.isError && <Problem error={read.error} />}
        {isReadable && read.data && !read.isError && (
          <p className="border-l-4 border-base-300 pl-2">{read.data.sentence}</p>
        )}
      </div>
      {text === null ? (
        <OrderFields doc={doc} setDoc={setDoc} isNew={isNew} />
      ) : (
        <textarea
          aria-label="the order's text"
          className="textarea figure h-96 w-full"
          value={text}
          spellCheck={false}
          onChange={(e) => setText(e.target.value)}
        />
      )}
      {isReadable && read.data && !read.isError && (
        <TryOrder document={read.data.document as Doc} />
      )}
    </>
  );
}
