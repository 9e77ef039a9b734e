export { catalogue, type Code, type Parameters, type Severity } from './catalogue/index.js';
export {
  diagnostic,
  DiagnosticError,
  PassingError,
  fail,
  hasErrors,
  isFinding,
  placed,
  placedRange,
  type Diagnostic,
  type FindingCode,
  type Place,
} from './diagnostic.js';
export { findingDiagnostic, type Finding } from './finding.js';
export { formatLine } from './formats.js';
export { hiddenColumns, type Frame } from './frame.js';
export { listing, nearestWord, suggestion } from './nearest.js';
export { LineIndex, type Position, type Range } from './position.js';
