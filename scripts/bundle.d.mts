export declare function bundle(entry: string, format?: 'iife' | 'esm'): Promise<string>
