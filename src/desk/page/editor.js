// The text: an editor of the system's package, or a plain field where that is not installed.

const keywords = new Set(['role', 'init', 'true', 'does', 'next', 'legal', 'goal', 'terminal', 'base', 'input',
                          'sees', 'random', 'distinct', 'not', 'or', 'and', 'case', 'start', 'position', 'moves',
                          'expect', 'refused', 'legal-moves', 'claim', 'never', 'always', 'possible', 'exclusive']);

function defineMode(CodeMirror) {
  CodeMirror.defineMode('rules', () => ({
    startState: () => ({}),
    token(stream) {
      if (stream.eatSpace()) return null;
      const next = stream.next();
      if (next === ';') { stream.skipToEnd(); return 'comment'; }
      if (next === '"') {
        while (!stream.eol() && stream.next() !== '"');
        return 'string';
      }
      if (next === '?') { stream.eatWhile(/[\w-]/); return 'variable-2'; }
      if (next === '#') { stream.eatWhile(/[\w+*/-]/); return 'meta'; }
      if (next === '<' && stream.eat('=')) return 'keyword';
      if (next === ':' && stream.eat('-')) return 'keyword';
      if (/[0-9]/.test(next)) { stream.eatWhile(/[0-9]/); return 'number'; }
      if (/[A-Za-z_]/.test(next)) {
        stream.eatWhile(/[\w-]/);
        return keywords.has(stream.current().toLowerCase()) ? 'keyword' : null;
      }
      return null;
    },
    lineComment: ';',
  }));
  // A form folds from the line that opens it to its last one.
  CodeMirror.registerHelper('fold', 'rules', (editor, start) => {
    let depth = 0;
    for (let line = start.line; line < editor.lineCount(); ++line) {
      const text = editor.getLine(line).replace(/;.*/, '').replace(/"[^"]*"/g, '');
      for (const c of text) depth += c === '(' ? 1 : c === ')' ? -1 : 0;
      if (depth <= 0) {
        return line > start.line
          ? {from: CodeMirror.Pos(start.line, editor.getLine(start.line).length),
             to: CodeMirror.Pos(line, editor.getLine(line).length)}
          : undefined;
      }
    }
    return undefined;
  });
}

// One text field for several papers, each with its own history. `changed(paper)` is told of every change.
export class TextField {
  constructor(host, changed) {
    this.papers = new Map();
    this.shown = null;
    this.marks = [];
    this.lit = [];
    const CodeMirror = window.CodeMirror;
    if (CodeMirror) {
      defineMode(CodeMirror);
      this.library = CodeMirror;
      this.editor = CodeMirror(host, {
        mode: 'rules', lineNumbers: true, matchBrackets: true, autoCloseBrackets: true, foldGutter: true, lineWrapping: true,
        gutters: ['CodeMirror-linenumbers', 'CodeMirror-foldgutter'], indentUnit: 4,
        extraKeys: {'Ctrl-/': 'toggleComment', Tab: false, 'Shift-Tab': false},
      });
      this.editor.getInputField().setAttribute('aria-label', 'Text of the file');
      this.editor.on('change', (_, change) => { if (change.origin !== 'setValue') changed(this.shown); });
    } else {
      this.plain = document.createElement('textarea');
      this.plain.className = 'plain';
      this.plain.setAttribute('aria-label', 'Text of the file');
      this.plain.addEventListener('input', () => { this.papers.set(this.shown, this.plain.value); changed(this.shown); });
      host.append(this.plain);
    }
  }
  set(paper, text) {
    if (!this.editor) {
      this.papers.set(paper, text);
      if (paper === this.shown) this.plain.value = text;
      return;
    }
    const known = this.papers.get(paper);
    if (known) known.setValue(text);
    else this.papers.set(paper, this.library.Doc(text, 'rules'));
  }
  text(paper) {
    const known = this.papers.get(paper);
    return known === undefined ? '' : this.editor ? known.getValue() : known;
  }
  show(paper) {
    this.shown = paper;
    if (this.editor) this.editor.swapDoc(this.papers.get(paper));
    else this.plain.value = this.papers.get(paper);
  }
  // The same, as a change that can be undone, with the cursor where it was.
  change(paper, text) {
    if (!this.editor) { this.set(paper, text); return; }
    const doc = this.papers.get(paper);
    const cursor = doc.getCursor();
    const scroll = this.editor.getScrollInfo();
    const last = doc.lastLine();
    doc.replaceRange(text, this.library.Pos(0, 0), this.library.Pos(last, doc.getLine(last).length));
    doc.setCursor(cursor);
    if (paper === this.shown) this.editor.scrollTo(scroll.left, scroll.top);
  }
  // A stretch of a paper, by lines and characters from 0.
  replace(paper, from, to, instead) {
    if (this.editor) {
      this.papers.get(paper).replaceRange(instead, this.library.Pos(from.line, from.ch), this.library.Pos(to.line, to.ch));
      return;
    }
    const lines = this.text(paper).split('\n');
    const offset = (at) => lines.slice(0, at.line).reduce((sum, line) => sum + line.length + 1, 0) + at.ch;
    const whole = this.text(paper);
    this.set(paper, whole.slice(0, offset(from)) + instead + whole.slice(offset(to)));
  }
  // Adds text at the end of a paper.
  append(paper, text) {
    if (this.editor) {
      const doc = this.papers.get(paper);
      doc.replaceRange(text, this.library.Pos(doc.lastLine(), doc.getLine(doc.lastLine()).length));
    } else {
      this.set(paper, this.text(paper) + text);
    }
  }
  // Underlines findings of a paper: {line, column, width, severity, message, remedy}.
  underline(paper, findings) {
    if (!this.editor) return;
    const doc = this.papers.get(paper);
    for (const mark of this.marks.filter((m) => m.paper === paper)) mark.mark.clear();
    this.marks = this.marks.filter((m) => m.paper !== paper);
    for (const one of findings) {
      if (!one.line) continue;
      const from = this.library.Pos(one.line - 1, Math.max(one.column - 1, 0));
      const to = this.library.Pos(one.line - 1, Math.max(one.column - 1, 0) + Math.max(one.width || 1, 1));
      const mark = doc.markText(from, to, {
        className: one.severity === 'error' ? 'error-mark' : 'doubt-mark',
        attributes: {title: one.message + (one.remedy ? '\n' + one.remedy : '')},
      });
      this.marks.push({paper, mark});
    }
  }
  // Lights up lines of a paper until others are.
  light(paper, lines) {
    if (!this.editor) return;
    for (const [doc, line] of this.lit) doc.removeLineClass(line, 'background', 'lit');
    const doc = this.papers.get(paper);
    this.lit = lines.map((line) => [doc, doc.addLineClass(line - 1, 'background', 'lit')]);
    if (lines.length > 0 && this.shown === paper) this.editor.scrollIntoView({line: lines[0] - 1, ch: 0}, 60);
  }
  go(line, column) {
    if (this.editor) {
      this.editor.setCursor(line - 1, Math.max(column - 1, 0));
      this.editor.focus();
    } else {
      this.plain.focus();
    }
  }
}
