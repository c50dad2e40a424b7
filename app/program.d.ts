/** What the computation is made of, in short: set when the program is built. */
declare const __CHIRAXIS_PROGRAM__: string
