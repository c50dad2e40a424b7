export function buildThread(outfile: string): Promise<string>
