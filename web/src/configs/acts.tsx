/** What one does with a file: hold it against another, see who has the same text, copy it, take it away. */
import * as Popover from "@radix-ui/react-popover";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type FileLine, got, type SwitchRow } from "../api/client";
import { useOpenFabric } from "../app/open";
import { useNotices } from "../ui/notices";
import { counted } from "../ui/words";
import { peers } from "./beside";

interface Props {
	current: SwitchRow;
	switches: SwitchRow[];
	file: string;
	lines: FileLine[];
	beside: string;
	onBeside: (beside: string) => void;
	onOpen: (name: string) => void;
}

export function FileActs({ current, switches, file, lines, beside, onBeside, onOpen }: Props) {
	const { tell } = useNotices();
	const text = () => `${lines.map((line) => line.text).join("\n")}\n`;
	const copy = async () => {
		await navigator.clipboard.writeText(text());
		tell({ tone: "done", text: `${file} of ${current.name} is on the clipboard.` });
	};
	const take = () => {
		const link = document.createElement("a");
		link.href = URL.createObjectURL(new Blob([text()], { type: "text/plain" }));
		link.download = `${current.name}-${file.split("/").at(-1)}`;
		link.click();
		URL.revokeObjectURL(link.href);
	};
	return (
		<div className="flex items-center gap-4 border-b border-hair px-5 py-1 text-[12.5px]">
			<label className="flex items-center gap-2 text-soft">
				beside
				<select
					className="field mono py-0.5"
					value={beside}
					onChange={(event) => onBeside(event.target.value)}
				>
					<option value="">nothing</option>
					<option value="before">itself before the last change</option>
					{peers(current, switches).map((one) => (
						<option key={one.key} value={one.name}>
							{one.name}
							{one.rack === current.rack && one.role === current.role ? ", its twin" : ""}
						</option>
					))}
				</select>
			</label>
			<SameText file={file} current={current.name} onOpen={onOpen} />
			<span className="ml-auto" />
			<button type="button" className="button-plain" onClick={() => void copy()}>
				Copy
			</button>
			<button type="button" className="button-plain" onClick={take}>
				Download
			</button>
		</div>
	);
}

/** Which switches have the very same text in this file. */
function SameText({
	file,
	current,
	onOpen,
}: {
	file: string;
	current: string;
	onOpen: (name: string) => void;
}) {
	const fabric = useOpenFabric();
	const [open, setOpen] = useState(false);
	const { data } = useQuery({
		queryKey: ["fabric", fabric.name, "alike", fabric.version, file],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/alike", {
					params: { path: { name: fabric.name }, query: { path: file } },
				}),
			),
		enabled: open,
	});
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger className="button-plain">Who has the same text</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="start"
					sideOffset={4}
					className="z-30 max-h-[60vh] w-[420px] overflow-y-auto rounded-[4px] border border-hair bg-raised p-3 shadow-md"
				>
					{!data && <p className="text-soft">All files are read…</p>}
					{data && (
						<>
							<p className="mb-1 font-bold">
								{counted(data.length, "text")} of {file.split("/").at(-1)}
							</p>
							<ul>
								{data.map((one) => (
									<li key={one.switches[0]} className="border-t border-hair/60 py-1">
										<span className={one.switches.includes(current) ? "font-bold text-indigo" : ""}>
											{counted(one.switches.length, "switch", "switches")}, {counted(one.lines, "line")}
										</span>
										<span className="mono block text-soft">
											{one.switches.slice(0, 8).map((name) => (
												<button
													key={name}
													type="button"
													className="mr-2 hover:text-indigo"
													onClick={() => onOpen(name)}
												>
													{name}
												</button>
											))}
											{one.switches.length > 8 && `and ${one.switches.length - 8} more`}
										</span>
									</li>
								))}
							</ul>
						</>
					)}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
