export declare function bundle(entry: string, format?: 'iife' | 'esm'): Promise<string>
export declare function bundleFileJob(out: string): Promise<void>
