export function machineTaken(read?: () => string): () => number
