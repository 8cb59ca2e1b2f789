// The walk keeps what is still to be read on a stack of its own: how deep forms are is the user's
// to choose.
#include "editing/names.hpp"

#include <algorithm>

#include "orchard/format.hpp"
#include "rules/keywords.hpp"
#include "syntax/directives.hpp"
#include "syntax/reader.hpp"

namespace orchard::editing {

using syntax::Node;
using syntax::NodeIndex;

bool same_thing(const Name& a, const Name& b) {
  if (a.name != b.name) return false;
  if (a.sort == Sort::variable) return b.sort == Sort::variable && a.form == b.form;
  if (a.arity != b.arity) return false;
  return a.is_term() ? b.is_term() : a.sort == b.sort;
}

class NameFinder {
 public:
  NameFinder(Names& result, const Names* known)
      : tree_(result.tree_), names_(result.names_), paper_(result.paper_), known_(known) {}

  void run() {
    for (const NodeIndex form : tree_.forms()) {
      stack_.push_back({form, Part::form, Name::no_owner, 0, false});
      while (!stack_.empty()) {
        const Open open = stack_.back();
        stack_.pop_back();
        if (tree_.is_list(open.node)) {
          read_list(open);
        } else {
          read_leaf(open);
        }
      }
      ++form_;
    }
    std::ranges::stable_sort(names_, {}, &Name::begin);
  }

 private:
  struct Open {
    NodeIndex node;
    Part as;
    std::uint32_t owner;  // node of the name of the atom or function that it is an argument of
    std::uint32_t argument;
    bool makes;
  };

  void add(NodeIndex node, Sort sort, std::uint32_t arity, const Open& open, bool makes) {
    const Node& leaf = tree_[node];
    if (leaf.begin >= leaf.end) return;  // made by the syntax, not written
    names_.push_back({leaf.begin, leaf.end, sort, std::string(leaf.text), arity, makes, form_,
                      open.owner, open.argument});
  }
  void read_leaf(const Open& open);
  void read_list(const Open& open);
  Sort sort_of_head(std::string_view name, std::uint32_t arity, Part as) const;
  Sort sort_of_bare(std::string_view name, Part as) const;
  Sort known_sort(std::string_view name, std::uint32_t arity, Sort otherwise) const {
    return known_ == nullptr ? otherwise : known_->sort_of(name, arity).value_or(otherwise);
  }

  const syntax::Tree& tree_;
  std::vector<Name>& names_;
  const Paper paper_;
  const Names* known_;
  std::uint32_t form_ = 0;
  std::vector<Open> stack_;
};

Sort NameFinder::sort_of_bare(std::string_view name, Part as) const {
  if (as == Part::fluent) return Sort::fluent;
  if (as == Part::move) return Sort::move;
  if (as == Part::term) return Sort::constant;
  if (rules::find_keyword(name) != nullptr || rules::is_connective(name)) return Sort::keyword;
  // In cases and claims a bare name may be a role as well.
  const bool may_be_term = as == Part::loose || (paper_ == Paper::claims && as == Part::condition);
  return may_be_term ? known_sort(name, 0, Sort::constant) : Sort::relation;
}

void NameFinder::read_leaf(const Open& open) {
  const Node& leaf = tree_[open.node];
  if (leaf.kind == Node::Kind::variable) return add(open.node, Sort::variable, 0, open, open.makes);
  if (leaf.kind == Node::Kind::string) return add(open.node, Sort::text, 0, open, false);
  if (open.as == Part::range) return add(open.node, Sort::relation, 1, open, false);
  const Sort sort = sort_of_bare(leaf.text, open.as);
  const bool makes = open.makes || ((sort == Sort::relation || sort == Sort::keyword) &&
                                    (open.as == Part::form || open.as == Part::head));
  add(open.node, sort, 0, open, makes);
}

Sort NameFinder::sort_of_head(std::string_view name, std::uint32_t arity, Part as) const {
  if (syntax::find_directive(name) != nullptr) return Sort::directive;
  const bool may_be_atom = is_atom(as) || as == Part::loose;
  // A relation of the rules may be called like a word.
  if (may_be_atom && is_word(paper_, name) && known_sort(name, arity, Sort::word) == Sort::word) {
    return Sort::word;
  }
  if (may_be_atom && (rules::find_keyword(name) != nullptr || rules::is_connective(name))) {
    return Sort::keyword;
  }
  if (is_atom(as)) return Sort::relation;
  if (as == Part::fluent) return Sort::fluent;
  if (as == Part::move) return Sort::move;
  return as == Part::loose ? known_sort(name, arity, Sort::function) : Sort::function;
}

void NameFinder::read_list(const Open& open) {
  const std::vector<NodeIndex> parts = tree_.children(open.node);
  if (parts.empty()) return;
  const bool has_head = tree_.is_symbol(parts[0]);
  const std::string_view head = has_head ? tree_[parts[0]].text : std::string_view();
  auto arity = static_cast<std::uint32_t>(parts.size() - 1);
  Sort sort = sort_of_head(head, arity, open.as);
  // In cases a role stands before what it does: (east (tie 1 1)).
  const bool is_role = open.as == Part::loose && sort == Sort::function &&
                       known_sort(head, arity, Sort::text) == Sort::text &&
                       known_sort(head, 0, Sort::text) == Sort::constant;
  if (is_role) {
    sort = Sort::constant;
    arity = 0;
  }
  const bool concludes = open.as == Part::form || open.as == Part::head;
  const bool is_concluded = concludes && (sort == Sort::relation ||
                                          (sort == Sort::keyword && !rules::is_connective(head)));
  if (has_head) add(parts[0], sort, arity, open, open.makes || is_concluded);
  const bool builds = sort == Sort::directive || sort == Sort::word ||
                      (sort == Sort::keyword && rules::is_connective(head));
  const bool conveys = sort == Sort::directive || sort == Sort::word || sort == Sort::keyword;
  // What is said to hold from the start or next, or to be legal, is made there.
  const bool makes_terms = sort == Sort::keyword && concludes && head != "true" && head != "does";
  for (std::size_t i = parts.size(); i-- > (has_head ? 1 : 0);) {
    const Part as = is_role   ? Part::loose
                    : conveys ? part_within(paper_, head, i, open.as)
                              : Part::term;
    const bool gets_value = (head == "#let" || head == "#for") && i == 1;
    const bool is_made = makes_terms && (as == Part::fluent || as == Part::move);
    stack_.push_back({parts[i], as, builds || !has_head ? Name::no_owner : parts[0],
                      builds ? 0 : static_cast<std::uint32_t>(i), gets_value || is_made});
  }
}

namespace {

syntax::Tree tree_of(syntax::Source source, Diagnostics& faults) {
  syntax::ReaderOptions options;
  const Paper paper = paper_of(source.name());
  options.strings = paper != Paper::rules && paper != Paper::drawing;
  return syntax::read_by_name(std::move(source), options, faults);
}

}  // namespace

Names::Names(syntax::Source source, const Names* known)
    : paper_(paper_of(source.name())),
      infix_(syntax_of(source.name()) == Syntax::infix),
      tree_(tree_of(std::move(source), faults_)) {
  NameFinder(*this, known).run();
  for (const Name& name : names_) {
    if (name.sort == Sort::variable || name.sort == Sort::text) continue;
    // Fluents and moves stand within other terms, too: they are known as what they are first of
    // all.
    const bool is_plain = name.sort == Sort::function || name.sort == Sort::constant;
    const auto [known_as, is_new] = sorts_.try_emplace({name.name, name.arity}, name.sort);
    const Sort before = known_as->second;
    if (!is_new && !is_plain && (before == Sort::function || before == Sort::constant)) {
      known_as->second = name.sort;
    }
  }
  // Arguments say whose they are by the node of its name; from here on by its number among all.
  std::vector<std::pair<std::uint32_t, std::uint32_t>> by_begin;
  for (std::uint32_t i = 0; i < names_.size(); ++i) by_begin.emplace_back(names_[i].begin, i);
  for (Name& name : names_) {
    if (name.owner == Name::no_owner) continue;
    const auto found = std::ranges::lower_bound(by_begin, tree_[name.owner].begin, {},
                                                &std::pair<std::uint32_t, std::uint32_t>::first);
    name.owner = found != by_begin.end() && found->first == tree_[name.owner].begin
                     ? found->second
                     : Name::no_owner;
  }
}

const Name* Names::at(std::uint32_t offset) const {
  auto after = std::ranges::upper_bound(names_, offset, {}, &Name::begin);
  while (after != names_.begin()) {
    const Name& name = *--after;
    if (offset <= name.end) return &name;
    if (name.begin + 1000 < offset) break;
  }
  return nullptr;
}

Names::Stretch Names::form(std::uint32_t number) const {
  const Node& node = tree_[tree_.forms()[number]];
  return {node.begin, node.end};
}

std::string Names::comment_above(std::uint32_t form) const {
  const std::string_view text = source().text();
  std::uint32_t at = this->form(form).begin;
  std::vector<std::string_view> lines;
  const auto& comments = tree_.comments();
  auto next = std::ranges::lower_bound(comments, at, {}, &syntax::Comment::begin);
  while (next != comments.begin()) {
    const syntax::Comment& comment = *--next;
    const std::string_view between = text.substr(comment.end, at - comment.end);
    const bool right_above = between.find_first_not_of(" \t\r\n") == std::string_view::npos &&
                             std::ranges::count(between, '\n') == 1;
    const std::size_t line = text.rfind('\n', comment.begin) + 1;  // 0 if there is none
    const bool alone =
        text.substr(line, comment.begin - line).find_first_not_of(" \t") == std::string_view::npos;
    if (!right_above || !alone) break;
    std::string_view words = text.substr(comment.begin, comment.end - comment.begin);
    words.remove_prefix(std::min(words.find_first_not_of(";% "), words.size()));
    while (!words.empty() && (words.back() == '\r' || words.back() == ' ')) words.remove_suffix(1);
    lines.push_back(words);
    at = comment.begin;
  }
  std::string result;
  for (auto line = lines.rbegin(); line != lines.rend(); ++line) {
    result += result.empty() ? "" : "\n";
    result += *line;
  }
  return result;
}

std::optional<Sort> Names::sort_of(std::string_view name, std::uint32_t arity) const {
  const auto found = sorts_.find({std::string(name), arity});
  return found == sorts_.end() ? std::nullopt : std::optional(found->second);
}

}  // namespace orchard::editing
