/** The figures of a text while it is written: each stands as what it is, in one piece. */
import { StateEffect, StateField, type Extension, type Range } from '@codemirror/state';
import { Decoration, EditorView, WidgetType, type DecorationSet } from '@codemirror/view';
import type { FigureNow } from '../api/client';

const BRACES = /(?<!\\)\{([^{}\n]{1,400})\}/g;

/** What the figures are, and what the report's own dates are. */
export interface Facts {
  figures: Map<string, FigureNow>;
  asOf: string;
  against: string;
}
export const NO_FACTS: Facts = { figures: new Map(), asOf: '', against: '' };

/** The figures are others now. */
export const setFacts = StateEffect.define<Facts>();

export interface Piece {
  words: string;
  look: 'fig' | 'chg' | 'then' | 'fig missing' | 'rule';
  /** The name of the figure; empty for what is none. */
  name: string;
}

/** What stands between two braces, as it is seen. */
export function pieceOf(inner: string, facts: Facts): Piece {
  const trimmed = inner.trim();
  if (/^end$/i.test(trimmed)) return { words: 'end', look: 'rule', name: '' };
  if (/^when\s/i.test(trimmed)) return { words: trimmed, look: 'rule', name: '' };
  const [name = '', part = ''] = trimmed.split(':').map((one) => one.trim());
  const lower = name.toLowerCase();
  if (!part && lower === 'as of') return { words: facts.asOf || 'as of', look: 'then', name: '' };
  if (!part && lower === 'against')
    return { words: facts.against || 'the other date', look: 'then', name: '' };
  const found = facts.figures.get(lower);
  if (!found) return { words: trimmed, look: 'fig missing', name };
  if (found.why) return { words: `${name}: missing`, look: 'fig missing', name: found.name };
  if (!part) return { words: found.words, look: 'fig', name: found.name };
  const told = found.parts[part.toLowerCase()];
  if (told === undefined) return { words: trimmed, look: 'fig missing', name: found.name };
  return { words: told, look: part === 'then' || part === 'amount' ? 'then' : 'chg', name: found.name };
}

class Chip extends WidgetType {
  constructor(
    private readonly piece: Piece,
    private readonly inner: string,
    private readonly onopen: (name: string) => void,
  ) {
    super();
  }

  eq(other: Chip): boolean {
    return (
      other.inner === this.inner &&
      other.piece.words === this.piece.words &&
      other.piece.look === this.piece.look
    );
  }

  toDOM(): HTMLElement {
    const made = document.createElement('span');
    made.className = `${this.piece.look} live`;
    made.textContent = this.piece.words;
    made.title = this.piece.name ? `${this.inner}. Click to change the figure.` : this.inner;
    if (this.piece.name)
      made.addEventListener('mousedown', (event) => {
        event.preventDefault();
        this.onopen(this.piece.name);
      });
    return made;
  }

  ignoreEvent(): boolean {
    return true;
  }
}

interface State {
  facts: Facts;
  marks: DecorationSet;
}

/** Shows figures as what they are; the cursor steps over each in one go. */
export function chips(first: Facts, onopen: (name: string) => void): Extension {
  const marked = (text: string, facts: Facts): DecorationSet => {
    const out: Range<Decoration>[] = [];
    for (const found of text.matchAll(BRACES)) {
      const inner = found[1] ?? '';
      const widget = new Chip(pieceOf(inner, facts), inner, onopen);
      out.push(Decoration.replace({ widget }).range(found.index, found.index + found[0].length));
    }
    return Decoration.set(out);
  };
  const field = StateField.define<State>({
    create: (state) => ({ facts: first, marks: marked(state.doc.toString(), first) }),
    update(value, change) {
      const facts = change.effects.find((one) => one.is(setFacts))?.value as Facts | undefined;
      if (!facts && !change.docChanged) return value;
      const own = facts ?? value.facts;
      return { facts: own, marks: marked(change.newDoc.toString(), own) };
    },
    provide: (own) => [
      EditorView.decorations.from(own, (value) => value.marks),
      EditorView.atomicRanges.of((view) => view.state.field(own).marks),
    ],
  });
  return field;
}
