import clsx from "clsx";
import type { ButtonHTMLAttributes, Ref } from "react";

type Look = {
  size?: "xs" | "sm";
  tone?: "plain" | "primary" | "secondary" | "ghost";
  /** One sign wide, such as a cross. */
  tool?: boolean;
};

/** The classes of a button, for a link that looks like one. */
export const buttonLook = ({ size = "xs", tone = "plain", tool }: Look, more?: string) =>
  clsx("btn", `btn-${size}`, tone !== "plain" && `btn-${tone}`, tool && "btn-tool", more);

type Props = Look & ButtonHTMLAttributes<HTMLButtonElement> & { ref?: Ref<HTMLButtonElement> };

export function Button({ size, tone, tool, className, ...rest }: Props) {
  return <button type="button" className={buttonLook({ size, tone, tool }, className)} {...rest} />;
}
