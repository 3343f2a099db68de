/** Because, for a number: whose it is, since when, and the chain that leads to the brief. */
import type { Entry } from "../api/client";
import { useBecause } from "../api/queries";
import { Chain } from "../ui/chain";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { useOpenFabric } from "../ui/street";
import { clock, day } from "../ui/words";

export function NumberMargin({ entry }: { entry: Entry | undefined }) {
	const fabric = useOpenFabric();
	const mine = entry && entry.state !== "resting";
	const home = entry?.fabric ?? fabric.name;
	const { data } = useBecause(
		home,
		home === fabric.name ? fabric.version : 0,
		mine ? { use: entry.use, key: entry.key } : null,
	);
	return (
		<Margin>
			{entry ? (
				<>
					<MarginHead kind="Number" title={entry.number} mono />
					<Facts
						rows={[
							["Use", entry.use],
							[
								"Belongs to",
								<span key="key" className="mono">
									{entry.key}
								</span>,
							],
							["Fabric", entry.fabric],
							["State", entry.state],
							["Since", `${day(entry.since)}, ${clock(entry.since)}`],
							...(entry.rests_until
								? [
										["Rests until", `${day(entry.rests_until)}, ${clock(entry.rests_until)}`] as [
											string,
											string,
										],
									]
								: []),
						]}
					/>
					{mine && (
						<>
							<div className="label-small mb-1.5">Because</div>
							{data && <Chain steps={data.steps} />}
						</>
					)}
					{!mine && (
						<p>
							{entry.key} gave it back. Until its rest is over only {entry.key} can have it again, so that
							nothing else answers at an address that someone still remembers.
						</p>
					)}
				</>
			) : (
				<>
					<MarginHead kind="Because" title="Choose a number" />
					<p className="text-soft">
						A strip shows what is taken and what is free. Scroll on it to look closer, down to one number.
					</p>
				</>
			)}
		</Margin>
	);
}
