/** A value once it has not changed for a moment, so that nobody is asked about every keystroke. */
import { useEffect, useState } from "react";

/** Values that read the same in JSON are the same. */
export function useSettled<Value>(value: Value, wait: number): Value {
	const [settled, setSettled] = useState(value);
	const text = JSON.stringify(value);
	useEffect(() => {
		const timer = setTimeout(() => setSettled(JSON.parse(text)), wait);
		return () => clearTimeout(timer);
	}, [text, wait]);
	return settled;
}
