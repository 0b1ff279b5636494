import { cleanup, renderHook } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { useSettled } from "./settled";

afterEach(cleanup);

test("a value is kept until things are settled", () => {
  const { result, rerender } = renderHook(
    ({ value, settled }: { value: string; settled: boolean }) => useSettled(value, settled),
    { initialProps: { value: "one", settled: true } },
  );
  rerender({ value: "two", settled: false });
  expect(result.current).toBe("one");
  rerender({ value: "two", settled: true });
  expect(result.current).toBe("two");
  rerender({ value: "three", settled: false });
  expect(result.current).toBe("two");
});
