/** Claims about the front of a switch while a draft is looked at: what comes and changes is hatched, what goes is notched. */
import { screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import { FaceView } from "../brief/margin/face";
import { FACE, MARLIN, serve, show } from "../testing";

const line = (device: string, before: string, after: string) => ({
	within: [`iface ${device}`],
	device,
	before,
	after,
	effect: "none",
	words: "",
	why: "",
	source: "",
});

test("ports that the draft touches are told by mark and by word, and without an edition none is", async () => {
	const name = FACE.switch;
	const answers: Record<string, unknown> = {
		[`GET /fabrics/marlin/switches/${name}/face`]: FACE,
		"GET /fabrics/marlin/ripple/sums": { version: 3, against: 1, counts: {} },
		[`GET /fabrics/marlin/ripple/switches/${name}`]: [
			line("u1", "mtu 9216", "mtu 9100"),
			line("u2", "address 10.0.0.1/31", ""),
			line("u3", "", "address 10.0.0.3/31"),
			line("", "hostname a", "hostname b"),
		],
	};
	serve(answers);
	const { container, unmount } = show(<FaceView fabric={MARLIN} name={name} />);
	await waitFor(() => expect(container.querySelectorAll("[data-drafted]")).toHaveLength(3));
	expect(
		[...container.querySelectorAll("[data-drafted]")].map((one) => one.getAttribute("data-drafted")),
	).toEqual(["changes", "goes", "comes"]);
	expect(screen.getByText(/^u2: .*goes with the draft$/)).toBeTruthy();
	unmount();
	answers["GET /fabrics/marlin/ripple/sums"] = { version: 3, against: 0, counts: {} };
	const again = show(<FaceView fabric={MARLIN} name={name} />);
	await waitFor(() => expect(again.container.querySelector("svg title")).toBeTruthy());
	expect(again.container.querySelectorAll("[data-drafted]")).toHaveLength(0);
});
