import { compilers } from '../compilers/index.js';
import type { StepCatalogue } from '../config/steps.js';
import { apply } from './apply.js';
import { check } from './check.js';
import { compile } from './compile.js';
import { cut } from './cut.js';
import { importmap } from './importmap.js';
import { join } from './join.js';
import { licences } from './licences.js';
import { link } from './link.js';
import { minify } from './minify.js';
import { prefix } from './prefix.js';
import { recompress } from './recompress.js';
import { render } from './render.js';
import { run } from './run.js';
import { variants } from './variants.js';
import type { Step } from './step.js';

/** Every step, by its name in the project file. */
export const steps: ReadonlyMap<string, Step> = new Map(
  [cut, render, compile, link, join, prefix, minify, variants, recompress, importmap, licences, check, run, apply].map(
    (step) => [step.name, step as Step],
  ),
);

/** The steps, for validating the project file. */
export const stepCatalogue: StepCatalogue = {
  steps: [...steps.values()],
  isPartial: (path) => compilers.some((compiler) => compiler.isPartial(path)),
};
