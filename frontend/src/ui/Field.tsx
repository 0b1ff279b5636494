import clsx from "clsx";
import type { InputHTMLAttributes, SelectHTMLAttributes } from "react";

const BOX = "field-box";

/** A field of one line, plain enough to stand inside a table or a sentence. */
export function TextField({ className, ...rest }: InputHTMLAttributes<HTMLInputElement>) {
  return <input className={clsx(BOX, className)} {...rest} />;
}

/** A choice of a few, as plain. */
export function Select({ className, ...rest }: SelectHTMLAttributes<HTMLSelectElement>) {
  return <select className={clsx(BOX, className)} {...rest} />;
}
