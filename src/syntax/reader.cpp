// The reader runs over the text once, keeping the open lists on a stack of its own.
//
// Unbalanced parentheses: the place where a text ends inside a list says little, since the slip
// is usually a screen or a file away. If the first run ends inside a list, a second run takes a
// parenthesis in the first column as the start of a new form: it closes what is open there and
// names that form as the unclosed one. Only texts that are wrong anyway are read this way, so
// well-formed texts may be laid out as they like.
#include "syntax/reader.hpp"
#include "base/interruption.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "orchard/format.hpp"
#include "syntax/characters.hpp"
#include "syntax/infix_reader.hpp"
#include "syntax/name_pool.hpp"

namespace orchard::syntax {

class TreeBuilder {
 public:
  TreeBuilder(Tree& tree, const ReaderOptions& options, Diagnostics& diagnostics,
              bool forms_begin_in_first_column)
      : tree_(tree),
        text_(tree.source().text()),
        options_(options),
        diagnostics_(diagnostics),
        forms_begin_in_first_column_(forms_begin_in_first_column),
        names_(tree.folded_) {}

  // False if the text ended inside a list.
  bool run();

 private:
  void read_token();
  void read_symbol();
  void read_string();
  void read_stray();
  bool after_include() const;
  void skip_comment();
  void open_list();
  void close_list(std::uint32_t end);
  void close_unfinished_forms();
  void add_leaf(Node::Kind kind, std::uint32_t begin, std::uint32_t end, std::string_view text);
  void error(std::uint32_t begin, std::uint32_t end, std::string code, std::string message,
             std::string remedy);

  Tree& tree_;
  const std::string_view text_;
  const ReaderOptions& options_;
  Diagnostics& diagnostics_;
  const bool forms_begin_in_first_column_;
  std::uint32_t at_ = 0;
  bool stopped_ = false;
  std::vector<NodeIndex> open_;
  NamePool names_;
};

bool TreeBuilder::run() {
  if (text_.starts_with("\xEF\xBB\xBF")) at_ = 3;  // byte order mark
  InterruptionPoint interruption;
  while (at_ < text_.size() && !stopped_) {
    interruption.pass();
    read_token();
  }
  if (stopped_) {  // lists are left open, so nothing can be made of what was read
    tree_.forms_.clear();
    tree_.nodes_.clear();
    return true;
  }
  if (open_.empty()) return true;
  close_unfinished_forms();
  return false;
}

void TreeBuilder::read_token() {
  const Character character = first_character(text_.substr(at_));
  switch (class_of(character)) {
    case CharacterClass::space:
      ++at_;
      break;
    case CharacterClass::comment:
      skip_comment();
      break;
    case CharacterClass::open:
      open_list();
      break;
    case CharacterClass::close:
      close_list(at_ + 1);
      break;
    case CharacterClass::stray:
      read_stray();
      break;
    case CharacterClass::symbol:
      if (text_[at_] == '"' && (options_.strings || after_include())) {
        read_string();
      } else {
        read_symbol();
      }
      break;
  }
}

// A description has strings only as the file names of #include.
bool TreeBuilder::after_include() const {
  return !tree_.nodes_.empty() && tree_.nodes_.back().text == "#include";
}

void TreeBuilder::skip_comment() {
  const std::uint32_t begin = at_;
  at_ = static_cast<std::uint32_t>(std::min(text_.find('\n', at_), text_.size()));
  tree_.comments_.push_back({begin, at_});
}

void TreeBuilder::read_symbol() {
  const std::uint32_t begin = at_;
  while (at_ < text_.size()) {
    const Character character = first_character(text_.substr(at_));
    if (class_of(character) != CharacterClass::symbol) break;
    at_ += character.bytes;
  }
  const std::string_view text = names_.folded(text_.substr(begin, at_ - begin));
  const bool variable = text.starts_with('?');
  if (text == "?") {
    error(begin, at_, "unnamed-variable", "a variable needs a name after the question mark",
          "write ?x, say");
  }
  add_leaf(variable ? Node::Kind::variable : Node::Kind::symbol, begin, at_, text);
}

void TreeBuilder::read_string() {
  const std::uint32_t begin = at_++;
  std::string contents;
  while (at_ < text_.size() && text_[at_] != '"') {
    if (text_[at_] == '\\' && at_ + 1 < text_.size()) ++at_;
    contents += text_[at_++];
  }
  if (at_ >= text_.size()) {
    error(begin, begin + 1, "unclosed-string", "this string is never closed", "add a \"");
    stopped_ = true;
    return;
  }
  ++at_;
  // What is shown as it stands there must not move the cursor, or turn texts around. Drawings have
  // several lines.
  for (std::size_t at = 0; at < contents.size();) {
    const std::string_view left = std::string_view(contents).substr(at);
    const Character character = first_character(left);
    const bool lines = left.front() == '\n' || left.front() == '\t' || left.starts_with("\r\n");
    if (lines) {
      ++at;
      continue;
    }
    if (!character.valid || is_control(character.code) || changes_direction(character.code)) {
      error(begin, at_, "stray-character", fmt::format("{} in a string", describe(character)),
            "remove it");
      break;
    }
    at += character.bytes;
  }
  add_leaf(Node::Kind::string, begin, at_, names_.keep(std::move(contents)));
}

// One message for a run of stray characters, however long.
void TreeBuilder::read_stray() {
  const std::uint32_t begin = at_;
  const Character first = first_character(text_.substr(at_));
  while (at_ < text_.size()) {
    const Character character = first_character(text_.substr(at_));
    if (class_of(character) != CharacterClass::stray) break;
    at_ += character.bytes;
  }
  error(begin, at_, "stray-character",
        fmt::format("{} does not belong in a description", describe(first)),
        "remove it, or save the file as plain UTF-8 text");
}

void TreeBuilder::open_list() {
  if (forms_begin_in_first_column_ && !open_.empty() && (at_ == 0 || text_[at_ - 1] == '\n')) {
    close_unfinished_forms();
  }
  if (open_.size() >= options_.limits.nesting) {
    error(at_, at_ + 1, "too-deep",
          fmt::format("lists are nested more than {} deep here", options_.limits.nesting),
          "give inner parts a relation of their own");
    stopped_ = true;
    return;
  }
  const auto index = static_cast<NodeIndex>(tree_.nodes_.size());
  add_leaf(Node::Kind::list, at_, at_ + 1, {});
  open_.push_back(index);
  ++at_;
}

void TreeBuilder::close_list(std::uint32_t end) {
  if (open_.empty()) {
    error(at_, at_ + 1, "unopened-parenthesis", "this parenthesis closes nothing",
          "remove it, or open the list that it should close");
  } else {
    Node& list = tree_.nodes_[open_.back()];
    list.size = static_cast<std::uint32_t>(tree_.nodes_.size() - open_.back());
    list.end = end;
    open_.pop_back();
  }
  ++at_;
}

// The outermost open list is the form that the reader names.
void TreeBuilder::close_unfinished_forms() {
  const std::uint32_t opened = tree_.nodes_[open_.front()].begin;
  error(opened, opened + 1, "unclosed-parenthesis",
        open_.size() == 1 ? "this list is never closed"
                          : fmt::format("{} lists from here on are never closed", open_.size()),
        "add the missing closing parenthesis");
  const std::uint32_t here = at_;
  while (!open_.empty()) close_list(here);
  at_ = here;
}

void TreeBuilder::add_leaf(Node::Kind kind, std::uint32_t begin, std::uint32_t end,
                           std::string_view text) {
  if (open_.empty()) {
    tree_.forms_.push_back(static_cast<NodeIndex>(tree_.nodes_.size()));
  } else {
    ++tree_.nodes_[open_.back()].children;
  }
  tree_.nodes_.push_back({kind, 1, 0, begin, end, text, 0});
  if (kind != Node::Kind::list && names_.note(text) > options_.limits.symbols && !stopped_) {
    error(begin, end, "too-many-symbols",
          fmt::format("more than {} different symbols", options_.limits.symbols),
          "use fewer names");
    stopped_ = true;
  }
}

void TreeBuilder::error(std::uint32_t begin, std::uint32_t end, std::string code,
                        std::string message, std::string remedy) {
  if (diagnostics_.full()) return diagnostics_.count(Severity::error);
  Diagnostic diagnostic = plain_error(std::move(code), std::move(message), std::move(remedy));
  diagnostic.place = tree_.source().place(begin, end);
  diagnostics_.add(std::move(diagnostic));
}

Tree read(Source source, const ReaderOptions& options, Diagnostics& diagnostics) {
  Diagnostics first_run;
  Tree tree(source);
  if (TreeBuilder(tree, options, first_run, false).run()) {
    diagnostics.append(first_run);
    return tree;
  }
  Tree second(std::move(source));
  TreeBuilder(second, options, diagnostics, true).run();
  return second;
}

Tree read_by_name(Source source, const ReaderOptions& options, Diagnostics& diagnostics) {
  const bool infix = syntax_of(source.name()) == Syntax::infix;
  return infix ? read_infix(std::move(source), options, diagnostics)
               : read(std::move(source), options, diagnostics);
}

}  // namespace orchard::syntax
