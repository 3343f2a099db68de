/** The mark and the name, at the top left of every screen; they lead to all fabrics. */
import { Link } from "react-router";
import { Mark } from "./mark";

export function Home() {
	return (
		<Link to="/" className="flex items-center gap-2.5 pb-3 text-[19px] font-[760] tracking-tight">
			<Mark />
			Barrio
		</Link>
	);
}
