/** Made-up weaves for the tests. */
import type { Thread, Weave } from "../../api/client";

function thread(part: Partial<Thread> & Pick<Thread, "name">): Thread {
	return {
		key: part.name,
		model: "Cantera L48",
		rack: "",
		role: "leaf",
		pod: "",
		plane: 0,
		group: 0,
		lanes: 1,
		loopback: "10.60.0.1",
		asn: 65000,
		state: "",
		why: "",
		front: 0,
		at: [0],
		used: 0,
		ports: 48,
		...part,
	};
}

/** A fabric of so many pods (0 for two tiers), spines, super-spines a plane, and racks of pairs in each pod. */
export function weaveOf(pods: number, spines: number, perPlane: number, racks: number): Weave {
	const names = pods ? Array.from({ length: pods }, (_, index) => `p${index + 1}`) : [""];
	const dash = (pod: string) => (pod ? `${pod}-` : "");
	return {
		version: 1,
		pods: pods ? names : [],
		supers: Array.from({ length: pods ? spines * perPlane : 0 }, (_, index) =>
			thread({
				name: `super-${Math.floor(index / perPlane) + 1}-${(index % perPlane) + 1}`,
				role: "super-spine",
				plane: Math.floor(index / perPlane) + 1,
			}),
		),
		spines: names.flatMap((pod) =>
			Array.from({ length: spines }, (_, index) =>
				thread({ name: `spine-${dash(pod)}${index + 1}`, role: "spine", pod, plane: index + 1 }),
			),
		),
		leaves: names.flatMap((pod) =>
			Array.from({ length: racks * 2 }, (_, index) => {
				const rack = `${dash(pod)}r${String(Math.floor(index / 2) + 1).padStart(3, "0")}`;
				return thread({ name: `leaf-${rack}${"ab"[index % 2]}`, rack, pod });
			}),
		),
		fronts: [{ up: ["u1"], down: ["p1"] }],
		uplinks: [[[0]]],
		marked: {},
		full_racks: [],
		fresh: [],
	} as Weave;
}
