import { build, install } from './lib.mjs';

install();
build();
