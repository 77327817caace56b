import { isMainThread } from 'node:worker_threads';

/** The bench itself, one of its tables alone, or one of the threads it starts from the same file. */
if (!isMainThread) (await import('./thread')).thread();
else if (process.argv[2] === 'layouts') await (await import('./atlas/atlas')).atlasTable(process.argv[3]);
else if (process.argv[2] === 'bakes') await (await import('./bakes')).bakeTable();
else if (process.argv[2] === 'gather') (await import('./gather')).gatherTable();
else if (process.argv[2] === 'photo') (await import('./photo')).photoTable();
else if (process.argv[2] === 'layers') await (await import('./layers')).layerTable();
else if (process.argv[2] === 'prints') await (await import('./prints')).printTable();
else if (process.argv[2] === 'variants') await (await import('./variants')).variantTable();
else await (await import('./table')).table();
