/** The structure in open formats, to take away. */
import * as Popover from "@radix-ui/react-popover";
import type { Fabric } from "../api/client";
import { structure, useDownload } from "../api/downloads";
import { WordPanel } from "./prose/word";

const FORMATS = [
	["svg", "SVG", "the picture"],
	["graphml", "GraphML", "for graph tools"],
	["dot", "DOT", "for Graphviz"],
	["rfc8345.json", "RFC 8345 JSON", "network topology, as YANG has it"],
] as const;

export function TopologyMenu({ fabric }: { fabric: Fabric }) {
	const download = useDownload();
	return (
		<Popover.Root>
			<Popover.Trigger className="button-plain">Take away</Popover.Trigger>
			<WordPanel width={280}>
				<ul>
					{FORMATS.map(([kind, label, what]) => (
						<li key={kind}>
							<Popover.Close
								className="w-full rounded-[3px] px-2 py-1 text-left hover:bg-chosen"
								onClick={() => void download(structure(fabric.name, kind))}
							>
								<span className="font-[560] text-indigo">{label}</span>{" "}
								<span className="text-soft">{what}</span>
							</Popover.Close>
						</li>
					))}
				</ul>
			</WordPanel>
		</Popover.Root>
	);
}
