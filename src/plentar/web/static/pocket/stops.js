"use strict";
// Stops without signal.
const Stops = {
  reading_barred: () => "",
  switch_barred: () => "",
  show() {},
};
