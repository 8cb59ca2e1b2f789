// The text is looked through from its beginning, keeping the forms that are open; a parenthesis in
// the first column begins a new form at the top, whatever is open.
#include "editing/completion.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "editing/insight.hpp"
#include "rules/keywords.hpp"
#include "syntax/directives.hpp"

namespace orchard::editing {

namespace {

bool is_symbol_letter(char c) {
  return c != '(' && c != ')' && c != ';' && c != '"' && static_cast<unsigned char>(c) > ' ';
}

std::string lowered(std::string_view text) {
  std::string result(text);
  for (char& c : result) {
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  }
  return result;
}

struct OpenForm {
  std::uint32_t begin = 0;
  std::string head;           // empty: it is not written yet
  std::uint32_t written = 0;  // parts so far, the head too
};

// Where in a text a byte stands.
struct Context {
  bool is_code = true;
  std::uint32_t word = 0;  // where the word before the byte begins
  std::uint32_t form = 0;  // where the form at the top begins
  std::vector<OpenForm> open;
};

Context context_at(std::string_view text, std::uint32_t offset, bool strings) {
  Context context;
  std::uint32_t at = 0;
  const auto part = [&](std::string head) {
    if (context.open.empty()) return;
    if (context.open.back().written++ == 0) context.open.back().head = std::move(head);
  };
  while (at < offset) {
    const char c = text[at];
    if (c == ';') {
      const std::size_t end = std::min(text.find('\n', at), text.size());
      if (end >= offset) {
        context.is_code = false;
        return context;
      }
      at = static_cast<std::uint32_t>(end);
    } else if (c == '"' && strings) {
      std::uint32_t end = at + 1;
      while (end < text.size() && text[end] != '"') end += text[end] == '\\' ? 2 : 1;
      if (end >= offset) {
        context.is_code = false;
        return context;
      }
      part("\"");
      at = end + 1;
    } else if (c == '(') {
      if (at == 0 || text[at - 1] == '\n') context.open.clear();
      if (context.open.empty()) context.form = at;
      context.open.push_back({at, {}, 0});
      ++at;
    } else if (c == ')') {
      if (!context.open.empty()) context.open.pop_back();
      part({});
      ++at;
    } else if (is_symbol_letter(c)) {
      const std::uint32_t begin = at;
      while (at < offset && is_symbol_letter(text[at])) ++at;
      if (at == offset) {
        context.word = begin;
        return context;
      }
      part(lowered(text.substr(begin, at - begin)));
    } else {
      ++at;
    }
  }
  context.word = offset;
  return context;
}

class Completer {
 public:
  Completer(std::string_view text, std::uint32_t offset, Paper paper, const Names* known,
            const Reading* reading)
      : text_(text), offset_(offset), paper_(paper), known_(known), reading_(reading) {}

  Completions run();

 private:
  void add_heads(Part part);
  void add_known(Sort sort);
  void add_domain(const OpenForm& form, Part part);
  void add_variables();
  void add_word(std::string_view word, Sort sort) {
    add({std::string(word), {}, shape_of(word), sort});
  }
  void add(Completion item) {
    if (!seen_.insert(item.name).second) return;
    if (item.insert.empty()) item.insert = item.name;
    result_.items.push_back(std::move(item));
  }
  Part part_of(std::size_t depth) const;

  const std::string_view text_;
  const std::uint32_t offset_;
  const Paper paper_;
  const Names* const known_;
  const Reading* const reading_;
  Context context_;
  std::set<std::string> seen_;
  bool head_ = false;  // whether a parenthesis has been opened already
  Completions result_;
};

// What the form at a depth is; of depth open.size(), what is being typed.
Part Completer::part_of(std::size_t depth) const {
  Part part = Part::form;
  for (std::size_t i = 0; i < depth; ++i) {
    const OpenForm& form = context_.open[i];
    part = form.written == 0 ? part : part_within(paper_, form.head, form.written, part);
  }
  return part;
}

// Names of the rules that can begin a form, or stand alone if they have no arguments.
void Completer::add_known(Sort sort) {
  if (known_ == nullptr) return;
  std::map<std::pair<std::string, std::uint32_t>, const Name*> names;
  for (const Name& name : known_->all()) {
    // What is being typed is no name yet.
    if (name.sort == sort && (name.begin != result_.begin || known_->paper() != paper_)) {
      names.try_emplace({name.name, name.arity}, &name);
    }
  }
  for (const auto& [key, name] : names) {
    const bool alone = name->arity == 0;
    if (head_ && alone && sort != Sort::relation) continue;
    std::string shape = insight_of(*known_, *name, *known_, nullptr).shape;
    add({name->name, alone || head_ ? name->name : "(" + name->name + " ", std::move(shape), sort});
  }
}

void Completer::add_heads(Part part) {
  const auto add_keywords = [&](bool in_heads) {
    for (const rules::KeywordFacts& facts : rules::keyword_table()) {
      if ((in_heads ? facts.in_heads : facts.in_bodies) && (!head_ || facts.arity > 0)) {
        add({std::string(facts.name),
             facts.arity > 0 && !head_ ? "(" + std::string(facts.name) + " "
                                       : std::string(facts.name),
             std::string(facts.shape), Sort::keyword});
      }
    }
  };
  if (part == Part::form && head_) {
    for (const std::string_view word : words_of(paper_)) add_word(word, Sort::word);
    if (paper_ == Paper::rules || paper_ == Paper::drawing || paper_ == Paper::claims) {
      add_word("<=", Sort::keyword);
    }
    if (paper_ == Paper::rules) add_keywords(true);
  }
  if (part == Part::head) add_keywords(true);
  if (part == Part::condition) {
    add_keywords(false);
    if (head_) {
      for (const std::string_view word : {"not", "or", "distinct"}) add_word(word, Sort::keyword);
    }
  }
  if (part == Part::form || part == Part::head || part == Part::condition || part == Part::loose ||
      part == Part::range) {
    if (part != Part::form || head_) add_known(Sort::relation);
  }
  if (head_ && (part == Part::loose || part == Part::condition) && paper_ != Paper::rules) {
    for (const std::string_view word : words_of(paper_)) add_word(word, Sort::word);
  }
  if (part == Part::fluent || part == Part::loose) add_known(Sort::fluent);
  if (part == Part::move || part == Part::loose) add_known(Sort::move);
  if (head_ && part == Part::term) {
    for (const Sort sort : {Sort::function, Sort::fluent, Sort::move}) add_known(sort);
  }
}

// What the rules let stand at an argument.
void Completer::add_domain(const OpenForm& form, Part part) {
  if (reading_ == nullptr || part != Part::term) return;
  // What the form itself is says whose argument it is.
  const Part of = part_of(context_.open.size() - 1);
  const auto kind = of == Part::fluent ? ArgumentDomain::Kind::fluent
                    : of == Part::move ? ArgumentDomain::Kind::move
                    : is_atom(of)      ? ArgumentDomain::Kind::relation
                                       : ArgumentDomain::Kind::function;
  bool is_known = false;
  const bool of_role = form.head == "legal" || form.head == "does" || form.head == "goal" ||
                       form.head == "sees" || form.head == "input" || form.head == "role";
  if (of_role && form.written == 1 && reading_->game) {
    for (const Role& role : reading_->game->roles())
      add({role.name(), {}, "a role", Sort::constant});
    is_known = true;
  }
  for (const ArgumentDomain& domain : reading_->domains()) {
    if (domain.name != form.head || domain.argument != form.written) continue;
    if (domain.kind != kind && of != Part::loose) continue;
    for (const std::string& value : domain.values) {
      if (!value.starts_with('(')) {
        add({value, {}, "can stand here", Sort::constant});
        continue;
      }
      const std::string name = value.substr(1, value.find(' ') - 1);  // of "(open …)"
      add({name, "(" + name + " ", "can stand here", Sort::function});
    }
    is_known = true;
  }
  if (known_ != nullptr) {
    for (const Name& name : known_->all()) {
      if (name.sort == Sort::constant && name.makes) add({name.name, {}, "a size", Sort::constant});
    }
  }
  // Nothing is known of this place: whatever the rules have.
  if (!is_known) {
    add_known(Sort::constant);
    add_known(Sort::function);
  }
}

// Those of the form that is being typed.
void Completer::add_variables() {
  std::set<std::string> names;
  const auto add_from = [&](std::uint32_t begin, std::uint32_t end) {
    for (std::size_t at = text_.find('?', begin); at < end; at = text_.find('?', at + 1)) {
      if (at > 0 && is_symbol_letter(text_[at - 1])) continue;
      std::size_t last = at;
      while (last < text_.size() && is_symbol_letter(text_[last])) ++last;
      if (last - at > 1) names.insert(lowered(text_.substr(at, last - at)));
    }
  };
  add_from(context_.form, result_.begin);
  // To the end of the form, or to what begins in the first column.
  add_from(result_.end,
           static_cast<std::uint32_t>(std::min(text_.find("\n(", offset_), text_.size())));
  for (const std::string& name : names) add({name, {}, "in this rule", Sort::variable});
}

Completions Completer::run() {
  result_.begin = result_.end = offset_;
  const bool strings = paper_ != Paper::rules && paper_ != Paper::drawing;
  context_ = context_at(text_, offset_, strings);
  if (!context_.is_code) return result_;
  result_.begin = context_.word;
  while (result_.end < text_.size() && is_symbol_letter(text_[result_.end])) ++result_.end;
  const std::string typed = lowered(text_.substr(result_.begin, offset_ - result_.begin));
  if (typed.starts_with('#')) {
    for (const auto& facts : syntax::directives()) add_word(facts.name, Sort::directive);
    return result_;
  }
  if (!context_.open.empty() && context_.open.back().written == 0) {
    head_ = true;
    add_heads(part_of(context_.open.size() - 1));
    return result_;
  }
  const Part part = part_of(context_.open.size());
  if (context_.open.empty()) return result_;
  add_variables();
  if (typed.starts_with('?')) return result_;
  add_domain(context_.open.back(), part);
  add_heads(part);
  return result_;
}

}  // namespace

Completions completions_at(std::string_view text, std::uint32_t offset, Paper paper,
                           const Names* known, const Reading* reading) {
  offset = std::min(offset, static_cast<std::uint32_t>(text.size()));
  return Completer(text, offset, paper, known, reading).run();
}

}  // namespace orchard::editing
