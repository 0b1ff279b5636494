/** A time as a field for date and time has it, in the reader's zone. */
export function forField(date: Date): string {
  const two = (n: number) => String(n).padStart(2, "0");
  const day = `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
  return `${day}T${two(date.getHours())}:${two(date.getMinutes())}`;
}

/** This time tomorrow, as a field has it. */
export const tomorrow = () => forField(new Date(Date.now() + 24 * 3600e3));
