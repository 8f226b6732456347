/** The registries as the server gives them; written beside its OpenAPI document when the front end is built. */
import './server';
import registries from '../choices.json';
import { setChoices, type Choices } from '../src/domain/choices';

setChoices(registries as unknown as Choices);

// jsdom lays nothing out, so no size ever changes.
globalThis.ResizeObserver ??= class {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
};
