/** Claims about places: kept in the address, and not undone by a navigation that takes its time. */
import { act, render, screen } from "@testing-library/react";
import { Suspense, startTransition, use } from "react";
import { BrowserRouter, useLocation, useNavigate } from "react-router";
import { beforeEach, expect, test } from "vitest";
import { usePlace } from "./place";

let held: { promise: Promise<void>; open: () => void };

beforeEach(() => {
	let open = () => {};
	held = { promise: new Promise((resolve) => (open = resolve)), open: () => open() };
	history.replaceState(null, "", "/configs");
});

function Slow() {
	if (useLocation().pathname === "/configs/leaf") use(held.promise);
	return null;
}

function Page() {
	const [place, go] = usePlace("find");
	const navigate = useNavigate();
	return (
		<>
			<output aria-label="find">{place.find ?? "nothing"}</output>
			<button
				type="button"
				onClick={() => startTransition(() => void navigate("/configs/leaf", { replace: true }))}
			>
				open
			</button>
			<button type="button" onClick={() => navigate("/configs/leaf?find=other")}>
				away
			</button>
			<button type="button" onClick={() => go({ find: "10.90.0.15" })}>
				type
			</button>
		</>
	);
}

const shown = () =>
	render(
		<BrowserRouter>
			<Page />
			<Suspense fallback={null}>
				<Slow />
			</Suspense>
		</BrowserRouter>,
	);

const press = (name: string) => act(async () => screen.getByRole("button", { name }).click());

test("what is typed stands in the address and on the screen", async () => {
	shown();
	await press("type");
	expect(location.search).toBe("?find=10.90.0.15");
	expect(screen.getByLabelText("find").textContent).toBe("10.90.0.15");
});

test("what is typed while a navigation is under way is not undone when it comes to its end", async () => {
	shown();
	await press("open");
	expect(location.pathname).toBe("/configs/leaf");
	await press("type");
	await act(async () => held.open());
	expect(screen.getByLabelText("find").textContent).toBe("10.90.0.15");
	expect(location.search).toBe("?find=10.90.0.15");
});

test("a navigation of its own sets the place anew, also back to where it was changed", async () => {
	held.open();
	shown();
	await press("type");
	await press("away");
	expect(screen.getByLabelText("find").textContent).toBe("other");
	await act(async () => {
		const there = new Promise((resolve) => addEventListener("popstate", resolve, { once: true }));
		history.back();
		await there;
	});
	expect(screen.getByLabelText("find").textContent).toBe("10.90.0.15");
});
