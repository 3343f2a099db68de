/** Claims about what changes hundreds of times a second: it is looked at often enough, never in the middle of a look, and the last change is seen. */
import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { lookAgain } from "./calm";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("a thousand changes in a second are a few looks, and one after the last", async () => {
	const queries = new QueryClient();
	const looks = vi.spyOn(queries, "invalidateQueries");
	for (let change = 0; change < 1000; change += 1) {
		lookAgain(queries, ["fabric", "marlin", "staging"]);
		await vi.advanceTimersByTimeAsync(1);
	}
	const during = looks.mock.calls.length;
	expect(during).toBeGreaterThan(2);
	expect(during).toBeLessThan(6);
	await vi.advanceTimersByTimeAsync(1000);
	expect(looks.mock.calls.length).toBe(during + 1);
});

test("a look that takes long is not begun again in its middle, and what came meanwhile is seen after it", async () => {
	const queries = new QueryClient();
	const looks = vi.spyOn(queries, "invalidateQueries");
	const fetching = vi.spyOn(queries, "isFetching").mockReturnValue(1);
	lookAgain(queries, ["fabric", "tern", "staging"]);
	await vi.advanceTimersByTimeAsync(5000);
	expect(looks).not.toHaveBeenCalled();
	fetching.mockReturnValue(0);
	await vi.advanceTimersByTimeAsync(200);
	expect(looks).toHaveBeenCalledOnce();
});
