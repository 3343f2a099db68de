/** What a typed text means as a whole number; any other text stays as it is, for the server to refuse in words. */
export const whole = (text: string): unknown => (/^\d+$/.test(text.trim()) ? Number(text) : text);
