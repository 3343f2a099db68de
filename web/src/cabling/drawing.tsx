/** Drawing on the floor plan: what is chosen can be moved by key or drag, turned, widened; trays are drawn corner by corner. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { Link } from "react-router";
import { client, type Fabric, type Failure, got } from "../api/client";
import { useChange } from "../api/edits";
import { useOpenFabric } from "../app/open";
import { useKey } from "../ui/keys";
import type { Floor, Spot } from "./queries";

export interface At {
	x: number;
	y: number;
}

/** To the nearest decimetre, which is as fine as a hall is drawn. */
export const snapped = (mm: number) => Math.round(mm / 100) * 100;

export interface Drawing {
	/** The row that is moved, and how far it is under the pointer. */
	row: Spot | undefined;
	tray: At[] | null;
	onMove: (by: At) => void;
	onCorner: (at: At) => void;
}

export function useDrawing(floor: Floor | undefined, rack: string, on: boolean) {
	const fabric = useOpenFabric();
	const change = useChange(fabric.name);
	const [tray, setTray] = useState<At[] | null>(null);
	const row = useMemo(
		() => (on && !floor?.rule ? floor?.racks.find((one) => one.rack === rack) : undefined),
		[floor, rack, on],
	);
	const halls = fabric.brief.halls ?? {};
	const path = row ? `halls.${row.hall}.rows.${row.row}` : "";
	const said = row ? halls[row.hall]?.rows?.[row.row] : undefined;
	const edit = useCallback(
		(edits: [string, unknown][], note: string) => change.mutate({ kind: "edit", edits, note }),
		[change],
	);
	const onMove = useCallback(
		(by: At) => {
			if (!said || !row || (!by.x && !by.y)) return;
			const at = [0, 1].map((axis) => {
				const was = said.at[axis] ?? 0;
				return Math.max(0, Math.round((was + (axis ? by.y : by.x) / 1000) * 1000) / 1000);
			});
			edit([[`${path}.at`, at]], `row ${row.row} of ${row.hall} moved`);
		},
		[said, row, path, edit],
	);
	const onCorner = useCallback((at: At) => setTray((was) => [...(was ?? []), at]), []);
	const finish = () => {
		const hall = floor?.rooms[0];
		if (tray && tray.length > 1 && hall) {
			const names = new Set(Object.keys(halls[hall.name]?.trays ?? {}));
			let number = names.size + 1;
			while (names.has(`tray-${number}`)) number += 1;
			const along = tray.map((at) => [(at.x - hall.x) / 1000, (at.y - hall.y) / 1000]);
			edit([[`halls.${hall.name}.trays.tray-${number}`, { along }]], `tray-${number} drawn in ${hall.name}`);
		}
		setTray(null);
	};
	const turn = () => {
		if (!row) return;
		const order = ["north", "east", "south", "west"];
		const next = order[(order.indexOf(row.faces) + 2) % 4];
		edit([[`${path}.faces`, next]], `row ${row.row} of ${row.hall} faces ${next}`);
	};
	useKey("t", () => on && setTray(tray ? null : []));
	useKey("r", () => on && turn());
	useKey("Enter", () => on && tray && finish());
	return {
		drawing: on ? ({ row, tray, onMove, onCorner } satisfies Drawing) : undefined,
		tools: on ? (
			<Tools
				floor={floor}
				row={row}
				tray={tray}
				busy={change.isPending}
				onTray={() => setTray(tray ? null : [])}
				onFinish={finish}
				onTurn={turn}
				onEdit={edit}
			/>
		) : null,
	};
}

interface ToolsProps {
	floor: Floor | undefined;
	row: Spot | undefined;
	tray: At[] | null;
	busy: boolean;
	onTray: () => void;
	onFinish: () => void;
	onTurn: () => void;
	onEdit: (edits: [string, unknown][], note: string) => void;
}

function Tools({ floor, row, tray, busy, onTray, onFinish, onTurn, onEdit }: ToolsProps) {
	const fabric = useOpenFabric();
	if (floor?.rule) return <ByHand />;
	const trays = floor?.trays ?? [];
	return (
		<div className="absolute top-0 right-0 w-[300px] border-hair border-l bg-paper pl-4 text-[13px]">
			{tray ? (
				<>
					<p>
						{tray.length ? `${tray.length} corners.` : "Click where the tray begins, then each corner."} Enter
						ends it, T lets it go.
					</p>
					<button
						type="button"
						className="button-plain"
						disabled={tray.length < 2 || busy}
						onClick={onFinish}
					>
						The tray ends here
					</button>
				</>
			) : (
				<button type="button" className="button-plain" onClick={onTray}>
					Draw a tray (T)
				</button>
			)}
			{row ? (
				<>
					<p className="mt-2">
						Row <b>{row.row}</b> of {row.hall}: drag it, or Alt with the arrow keys, a decimetre at a time.
					</p>
					<button type="button" className="button-plain" disabled={busy} onClick={onTurn}>
						Turn it round (R)
					</button>
				</>
			) : (
				<p className="mt-2 text-soft">Choose a rack, to move or turn its row.</p>
			)}
			{trays.length > 0 && (
				<ul className="mt-2">
					{trays.map((one) => (
						<li key={`${one.hall} ${one.name}`} className="flex gap-3">
							<span className="flex-1 truncate">{one.name}</span>
							<label className="text-soft">
								<input
									className="field mono w-16 px-1 py-0"
									aria-label={`Width of ${one.name} in millimetres`}
									defaultValue={one.width}
									key={`${one.width} ${fabric.version}`}
									onBlur={(event) => {
										const width = Number(event.target.value);
										if (width > 0 && width !== one.width)
											onEdit(
												[[`halls.${one.hall}.trays.${one.name}.width`, width]],
												`${one.name} is ${width} mm wide`,
											);
									}}
								/>{" "}
								mm
							</label>
							<button
								type="button"
								className="button-plain min-h-0"
								aria-label={`Take out ${one.name}`}
								disabled={busy}
								onClick={() =>
									onEdit([[`halls.${one.hall}.trays.${one.name}`, null]], `${one.name} taken out`)
								}
							>
								take out
							</button>
						</li>
					))}
				</ul>
			)}
			{floor && floor.nowhere.length > 0 && (
				<button
					type="button"
					className="button-plain mt-2"
					disabled={busy}
					onClick={() => onEdit(newRow(floor, fabric), `${floor.nowhere.length} racks placed`)}
				>
					Place {floor.nowhere.length} racks that stand nowhere
				</button>
			)}
			<Link className="button-plain mt-2 block" to={`/f/${fabric.name}/cabling/import`}>
				Racks from a sheet
			</Link>
		</div>
	);
}

/** A row under all others for the racks that stand nowhere. */
function newRow(floor: Floor, fabric: Fabric): [string, unknown][] {
	const hall = floor.rooms[0]?.name ?? "hall";
	const room = floor.rooms[0];
	const rows = Object.keys(fabric.brief.halls?.[hall]?.rows ?? {});
	let number = rows.length + 1;
	while (rows.includes(`row-${number}`)) number += 1;
	const below = Math.max(
		0,
		...floor.racks.filter((one) => one.hall === hall).map((one) => one.y + one.depth),
	);
	const at = [1.2, Math.max(0.9, (below - (room?.y ?? 0)) / 1000 + 1.8)];
	return [
		[`halls.${hall}.rows.row-${number}`, { racks: floor.nowhere.join(", "), at, faces: "north" }],
		[`halls.${hall}.size`, null],
	];
}

/** A hall by rule is put down by hand before anything in it moves by itself. */
function ByHand() {
	const fabric = useOpenFabric();
	const queries = useQueryClient();
	const draw = useMutation<Fabric, Failure>({
		mutationFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/floor/by-hand", {
					params: { path: { name: fabric.name }, query: { version: fabric.version } },
				}),
			),
		onSuccess: (newer) => {
			queries.setQueryData(["fabric", fabric.name], newer);
			queries.setQueryData(["version", fabric.name], { version: newer.version });
		},
	});
	return (
		<div className="absolute top-0 right-0 w-[300px] border-hair border-l bg-paper pl-4 text-[13px]">
			<p>This hall stands by a rule. Put it down as it is, and each row and tray can be moved by itself.</p>
			<button type="button" className="button-plain" disabled={draw.isPending} onClick={() => draw.mutate()}>
				Draw it by hand
			</button>
			{draw.error && <p className="text-madder">{draw.error.message}</p>}
			<Link className="button-plain mt-1 block" to={`/f/${fabric.name}/cabling/import`}>
				Racks from a sheet
			</Link>
		</div>
	);
}
