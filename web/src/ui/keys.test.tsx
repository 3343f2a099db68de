/** Claims about keys, notices, and the place that is kept in the address. */
import { act, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { expect, test, vi } from "vitest";
import { KeysDialog, useKey } from "./keys";
import { NoticeBoard, useNotices } from "./notices";
import { usePlace } from "./place";

function Bound({ act: action }: { act: () => void }) {
	useKey("t", action);
	return <input aria-label="typed into" />;
}

test("a key acts, but not while one types, nor with Control", async () => {
	const action = vi.fn();
	render(<Bound act={action} />);
	await userEvent.keyboard("t");
	expect(action).toHaveBeenCalledTimes(1);
	await userEvent.type(screen.getByLabelText("typed into"), "tt");
	expect(screen.getByLabelText<HTMLInputElement>("typed into").value).toBe("tt");
	screen.getByLabelText("typed into").blur();
	await userEvent.keyboard("{Control>}t{/Control}");
	expect(action).toHaveBeenCalledTimes(1);
});

test("the question mark shows the keys of this screen and of every screen", async () => {
	render(<KeysDialog here={[["Q", "a thing of this screen"]]} />);
	expect(screen.queryByRole("dialog")).toBeNull();
	await userEvent.keyboard("?");
	expect(screen.getByRole("dialog").textContent).toContain("a thing of this screen");
	expect(screen.getByRole("dialog").textContent).toContain("undo the last change");
	await userEvent.keyboard("{Escape}");
	expect(screen.queryByRole("dialog")).toBeNull();
});

function Teller() {
	const { tell } = useNotices();
	return (
		<>
			<button type="button" onClick={() => tell({ tone: "wrong", text: "It does not fit." })}>
				wrong
			</button>
			<button type="button" onClick={() => tell({ tone: "done", text: "It is done." })}>
				done
			</button>
		</>
	);
}

test("a notice is said once, stays until it is dismissed, and good news go by themselves", () => {
	vi.useFakeTimers();
	try {
		render(
			<NoticeBoard>
				<Teller />
			</NoticeBoard>,
		);
		const press = (name: string) => act(() => screen.getByRole("button", { name }).click());
		press("wrong");
		press("wrong");
		expect(screen.getAllByText("It does not fit.")).toHaveLength(1);
		press("done");
		expect(screen.getByText("It is done.")).toBeTruthy();
		act(() => vi.advanceTimersByTime(6000));
		expect(screen.queryByText("It is done.")).toBeNull();
		expect(screen.getByText("Not possible")).toBeTruthy();
		press("Dismiss");
		expect(screen.queryByText("It does not fit.")).toBeNull();
	} finally {
		vi.useRealTimers();
	}
});

function Placed() {
	const [place, go] = usePlace("spine", "leaf");
	return (
		<button type="button" onClick={() => go({ spine: "spine-2", leaf: undefined })}>
			{JSON.stringify(place)}
		</button>
	);
}

test("a place is read from the address, and written to it without what is not said", async () => {
	history.replaceState(null, "", "/f/marlin/brief?leaf=leaf-r01a&other=1");
	render(
		<MemoryRouter initialEntries={["/f/marlin/brief?leaf=leaf-r01a&other=1"]}>
			<Placed />
		</MemoryRouter>,
	);
	expect(screen.getByRole("button").textContent).toBe('{"leaf":"leaf-r01a"}');
	await userEvent.click(screen.getByRole("button"));
	expect(screen.getByRole("button").textContent).toBe('{"spine":"spine-2"}');
	expect(window.location.search).toBe("?spine=spine-2");
});
