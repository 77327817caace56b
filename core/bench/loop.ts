import { calibrate, median } from './calibrate';

/** How long the calibration loop takes here and now, s. */
console.log(median([calibrate(), calibrate(), calibrate()]));
