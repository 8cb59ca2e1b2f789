// Help while writing: what a name is, what could be written, another name for it, mending what was found.

export function writingOf(desk) {
  const {state, text, ask, by, made, notice, done, trouble} = desk;
  const papers = ['rules', 'cases', 'claims', 'drawing'];
  const editor = text.editor;
  const tip = by('insight');

  function request(position, more = {}) {
    const texts = Object.fromEntries(papers.map((paper) => [paper, text.text(paper)]));
    return {...texts, sizes: state.sizes, paper: text.shown, line: position.line, column: position.ch,
            last_good: state.lastGood || '', ...more};
  }

  // ---- What a name is ----

  let asked = 0;
  function hide() { ++asked; tip.hidden = true; }
  async function tell(position, {left, bottom}) {
    const number = ++asked;
    const answer = await ask('insight', request(position));
    if (number !== asked) return;
    if (answer.error || !answer.shape) { tip.hidden = true; return; }
    tip.replaceChildren(made('code', {}, answer.shape), ...answer.lines.map((line) => made('p', {}, line)));
    tip.hidden = false;
    const box = tip.getBoundingClientRect();
    tip.style.left = Math.max(8, Math.min(left, window.innerWidth - box.width - 8)) + 'px';
    tip.style.top = (bottom + box.height + 12 > window.innerHeight ? Math.max(8, bottom - box.height - 28) : bottom + 6) + 'px';
  }
  const atCursor = () => { const at = editor.getCursor(); tell(at, editor.cursorCoords(at, 'window')).catch(trouble); };
  async function goToRule() {
    const answer = await ask('insight', request(editor.getCursor()));
    if (!answer.made || answer.made.length === 0) return;
    desk.showPaper('rules');
    text.light('rules', answer.made);
    text.go(answer.made[0], 1);
  }

  // ---- What could be written ----

  async function hints(cm) {
    const answer = await ask('completions', request(cm.getCursor()));
    if (!answer.from) return null;
    const {line, ch} = answer.from;
    const typed = cm.getLine(line).slice(ch, cm.getCursor().ch).toLowerCase();
    const fitting = answer.items.filter((one) => one.name.startsWith(typed) || one.insert.startsWith(typed));
    return {from: text.library.Pos(line, ch), to: text.library.Pos(answer.to.line, answer.to.ch),
            list: fitting.slice(0, 200).map((one) => ({text: one.insert, render: (element) => {
              element.append(one.name, made('small', {}, '  ' + one.detail));
            }}))};
  }
  function complete() {
    if (editor.showHint) editor.showHint({hint: hints, completeSingle: false});
  }

  // ---- Another name ----

  async function rename() {
    const position = editor.getCursor();
    const word = editor.getRange(editor.findWordAt(position).anchor, editor.findWordAt(position).head);
    const name = prompt('Another name for what stands here, in the rules, cases, claims and drawing rules:', word);
    if (!name || name === word) return;
    const answer = await ask('rename', request(position, {name: name.trim()}));
    if (answer.error) { notice(answer.error + ' ', made('button', {onclick: done}, 'Leave it')); return; }
    for (const [paper, changed] of Object.entries(answer.texts)) text.change(paper, changed);
    desk.changed();
  }

  // ---- Mending ----

  function mend(fix) {
    text.replace('rules', fix.from, fix.to, fix.instead);
    desk.changed();
  }
  // What was found where the cursor stands, else the first thing that can be mended.
  function mendHere() {
    const line = editor ? editor.getCursor().line + 1 : 0;
    const findings = ((state.seen || {}).findings || []).filter((one) => (one.fixes || []).length > 0);
    const here = findings.find((one) => one.line === line) || findings[0];
    if (here) mend(here.fixes[0]);
    else desk.say('Nothing that was found has a plain remedy.');
  }

  document.addEventListener('keydown', (event) => {
    if (event.altKey && event.key === 'Enter') { event.preventDefault(); mendHere(); }
    if (event.key === 'Escape') hide();
  });
  if (editor) {
    editor.setOption('extraKeys', {...editor.getOption('extraKeys'), F1: atCursor, F2: () => rename().catch(trouble),
                                   F12: () => goToRule().catch(trouble), 'Ctrl-Space': complete});
    let timer = null;
    const wrapper = editor.getWrapperElement();
    wrapper.addEventListener('mousemove', (event) => {
      clearTimeout(timer);
      timer = setTimeout(() => {
        const place = {left: event.clientX, bottom: event.clientY + 8};
        const at = editor.coordsChar({left: event.clientX, top: event.clientY}, 'window');
        if (at.outside) { hide(); return; }
        tell(at, place).catch(() => {});
      }, 400);
    });
    wrapper.addEventListener('mouseleave', () => { clearTimeout(timer); hide(); });
    editor.on('change', hide);
    editor.on('scroll', () => { if (!tip.hidden) hide(); });
  }

  return {
    mend,
    // With every look: completions know what the text was when it last read.
    show(answer) { if (answer.reads) state.lastGood = answer.of_rules; },
  };
}
