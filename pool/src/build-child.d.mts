export function buildChild(outfile: string): Promise<string>
