#!/usr/bin/env node
import { built } from '../build.mjs';

const { main } = await import(await built());
process.exitCode = await main(process.argv.slice(2));
