import type { ComponentProps } from "react";

/** A small thing to do, as a word among others. */
export function TextButton({ className = "", ...rest }: ComponentProps<"button">) {
  return (
    <button
      type="button"
      className={`link disabled:text-pencil disabled:no-underline ${className}`}
      {...rest}
    />
  );
}
