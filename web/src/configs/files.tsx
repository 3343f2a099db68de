/** The files of a switch: the two that matter most as tabs, the others in a list. */
import * as Popover from "@radix-ui/react-popover";

interface Row {
	path: string;
	name: string;
	section: string;
	lines: number;
}

interface Props {
	files: Row[];
	current: string;
	onOpen: (path: string) => void;
}

export function FileTabs({ files, current, onOpen }: Props) {
	const main = files.slice(0, 2);
	const others = files.slice(2);
	const other = others.find((file) => file.path === current);
	return (
		<div className="ml-auto flex flex-none gap-0.5">
			{main.map((file) => (
				<Tab key={file.path} on={file.path === current} onClick={() => onOpen(file.path)}>
					{file.name}
				</Tab>
			))}
			<Popover.Root>
				<Popover.Trigger className={tabClass(Boolean(other))}>
					{other ? other.path.replace(/^etc\//, "") : `others ${others.length}`}
				</Popover.Trigger>
				<Popover.Portal>
					<Popover.Content
						align="end"
						sideOffset={4}
						className="z-30 w-[340px] rounded-[4px] border border-hair bg-raised p-2 shadow-md"
					>
						{others.map((file) => (
							<Popover.Close
								key={file.path}
								onClick={() => onOpen(file.path)}
								className="mono flex w-full gap-3 rounded-[3px] px-2 py-1 text-left hover:bg-chosen"
							>
								{file.path}
								<span className="ml-auto text-soft">{file.lines}</span>
							</Popover.Close>
						))}
					</Popover.Content>
				</Popover.Portal>
			</Popover.Root>
		</div>
	);
}

const tabClass = (on: boolean) =>
	`mono rounded-[3px] px-2.5 py-[3px] ${on ? "bg-ink text-paper" : "hover:text-indigo"}`;

function Tab({ on, onClick, children }: { on: boolean; onClick: () => void; children: React.ReactNode }) {
	return (
		<button type="button" aria-pressed={on} className={tabClass(on)} onClick={onClick}>
			{children}
		</button>
	);
}
