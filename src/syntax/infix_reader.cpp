// The reader keeps what is open (the form itself, parentheses, argument lists) on a stack of its
// own. An operator stands behind its first operand, so the parts of a form are linked to one
// another first and written into the tree in prefix order once the form is complete.
#include "syntax/infix_reader.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <utility>

#include "syntax/infix_tokens.hpp"
#include "syntax/name_pool.hpp"

namespace orchard::syntax {

using Token = InfixToken;
using Kind = InfixToken::Kind;

class InfixReader {
 public:
  InfixReader(Tree& tree, const ReaderOptions& options, Diagnostics& diagnostics)
      : tree_(tree),
        options_(options),
        diagnostics_(diagnostics),
        names_(tree.folded_),
        tokens_(tree.source(), diagnostics, tree.comments_) {}

  void run();

 private:
  using PartIndex = std::uint32_t;
  static constexpr PartIndex none = 0xFFFFFFFF;
  struct Part {
    Node node;
    PartIndex first = none;  // child
    PartIndex last = none;
    PartIndex next = none;  // sibling
  };
  struct Frame {
    enum class Kind { form, parentheses, arguments };
    Kind kind = Kind::form;
    std::uint32_t begin = 0;
    PartIndex list = none;                                // of arguments
    PartIndex head = none;                                // before :-
    std::vector<std::vector<PartIndex>> alternatives{1};  // separated by ; and then by ,
    std::vector<std::uint32_t> negations{};  // of the operand to come: where they begin
  };

  void read(const Token& token);
  void read_operand(Token token);
  void read_operator(const Token& token);
  void name_unnamed();
  void open(Frame::Kind kind, std::uint32_t begin, PartIndex list);
  void close(const Token& token);
  void finish_form(const Token& stop);
  void add_operand(PartIndex part);
  void take_argument();
  PartIndex value(Frame& frame);
  PartIndex leaf(Node::Kind kind, std::uint32_t begin, std::uint32_t end, std::string_view text);
  PartIndex list(std::string_view head, const std::vector<PartIndex>& children);
  void append(PartIndex list, PartIndex child);
  void write(PartIndex root);
  void drop_form();
  void unexpected(const Token& token, std::string_view wanted);
  void fail(std::uint32_t begin, std::uint32_t end, std::string code, std::string message,
            std::string remedy);

  Tree& tree_;
  const ReaderOptions& options_;
  Diagnostics& diagnostics_;
  NamePool names_;
  InfixTokens tokens_;
  std::vector<Part> parts_;
  std::vector<Frame> frames_;
  std::size_t depth_ = 0;  // frames and negations that are open
  bool wants_operand_ = true;
  PartIndex applicable_ = none;  // the name just read, which ( would make a function
  bool too_many_ = false;
  bool stopped_ = false;
  std::string unnamed_ = "?_";  // how variables written `_` are called, with a number
  std::size_t unnamed_count_ = 0;
};

void InfixReader::run() {
  name_unnamed();
  while (!stopped_) {
    const Token token = tokens_.next();
    if (token.kind == Kind::end) break;
    read(token);
    if (!too_many_) continue;
    fail(token.begin, token.end, "too-many-symbols",
         fmt::format("more than {} different symbols", options_.limits.symbols), "use fewer names");
    stopped_ = true;
  }
  if (!frames_.empty() && !stopped_) {
    const auto end = static_cast<std::uint32_t>(tree_.source().text().size());
    fail(frames_.front().begin, end, "unfinished-form", "this form has no end",
         "end it with a full stop");
  }
  if (!stopped_) return;
  tree_.forms_.clear();
  tree_.nodes_.clear();
}

// No variable of the text may be called like one that stands for `_`: more underscores than any.
void InfixReader::name_unnamed() {
  std::size_t most = 0;
  std::size_t here = 0;
  for (const char c : tree_.source().text()) {
    here = c == '_' ? here + 1 : 0;
    most = std::max(most, here);
  }
  unnamed_.append(most, '_');
}

void InfixReader::fail(std::uint32_t begin, std::uint32_t end, std::string code,
                       std::string message, std::string remedy) {
  if (diagnostics_.full()) {
    diagnostics_.count(Severity::error);
  } else {
    Diagnostic diagnostic = plain_error(std::move(code), std::move(message), std::move(remedy));
    diagnostic.place = tree_.source().place(begin, end);
    diagnostics_.add(std::move(diagnostic));
  }
  drop_form();
}

void InfixReader::drop_form() {
  frames_.clear();
  parts_.clear();
  depth_ = 0;
  wants_operand_ = true;
  applicable_ = none;
}

void InfixReader::unexpected(const Token& token, std::string_view wanted) {
  const bool at_stop = token.kind == Kind::stop;
  fail(token.begin, token.end, "unexpected-text", fmt::format("{} is missing here", wanted),
       "check what stands before this place");
  if (!at_stop) tokens_.skip_form();
}

void InfixReader::read(const Token& token) {
  if (token.kind == Kind::mistake) {
    drop_form();
    tokens_.skip_form();
    return;
  }
  if (frames_.empty()) {
    if (token.kind == Kind::close) {
      fail(token.begin, token.end, "unopened-parenthesis", "this parenthesis closes nothing",
           "remove it, or open what it should close");
      tokens_.skip_form();
      return;
    }
    open(Frame::Kind::form, token.begin, none);
  }
  if (wants_operand_) {
    read_operand(token);
  } else {
    read_operator(token);
  }
}

void InfixReader::read_operand(Token token) {
  Frame& frame = frames_.back();
  switch (token.kind) {
    case Kind::name:
      applicable_ =
          leaf(Node::Kind::symbol, token.begin, token.end,
               token.quoted ? names_.intern(std::move(token.unquoted)) : names_.folded(token.text));
      wants_operand_ = false;
      return;
    case Kind::variable: {
      std::string name = "?" + (token.quoted ? token.unquoted : std::string(token.text));
      if (name == "?") name = unnamed_ + std::to_string(++unnamed_count_);
      add_operand(leaf(Node::Kind::variable, token.begin, token.end, names_.intern(name)));
      return;
    }
    case Kind::string:
      add_operand(
          leaf(Node::Kind::string, token.begin, token.end, names_.keep(std::move(token.unquoted))));
      return;
    case Kind::negation:
      frame.negations.push_back(token.begin);
      if (++depth_ <= options_.limits.nesting) return;
      break;
    case Kind::open:
      return open(Frame::Kind::parentheses, token.begin, none);
    case Kind::close: {
      const bool nothing_yet = frame.kind == Frame::Kind::arguments && frame.negations.empty() &&
                               parts_[frame.list].node.children == 1;
      if (nothing_yet) return close(token);  // name()
      return unexpected(token, "a term");
    }
    default:
      return unexpected(token, frame.kind == Frame::Kind::arguments ? "a term" : "a condition");
  }
  fail(token.begin, token.end, "too-deep",
       fmt::format("this is nested more than {} deep", options_.limits.nesting),
       "give inner parts a relation of their own");
  stopped_ = true;
}

void InfixReader::read_operator(const Token& token) {
  if (applicable_ != none && token.kind == Kind::open) {
    const PartIndex name = std::exchange(applicable_, none);
    const PartIndex function = leaf(Node::Kind::list, parts_[name].node.begin, token.end, {});
    append(function, name);
    return open(Frame::Kind::arguments, token.begin, function);
  }
  if (applicable_ != none) add_operand(std::exchange(applicable_, none));
  Frame& frame = frames_.back();
  const bool in_arguments = frame.kind == Frame::Kind::arguments;
  switch (token.kind) {
    case Kind::comma:
      if (in_arguments) take_argument();
      wants_operand_ = true;
      return;
    case Kind::semicolon:
      if (in_arguments) return unexpected(token, "a comma or a parenthesis");
      frame.alternatives.emplace_back();
      wants_operand_ = true;
      return;
    case Kind::neck:
      if (in_arguments || frame.head != none || frame.alternatives.size() > 1 ||
          frame.alternatives.front().size() > 1) {
        return unexpected(token, in_arguments ? "a comma or a parenthesis" : "a full stop");
      }
      frame.head = frame.alternatives.front().front();
      frame.alternatives.front().clear();
      wants_operand_ = true;
      return;
    case Kind::close:
      return close(token);
    case Kind::stop:
      if (frames_.size() == 1) return finish_form(token);
      fail(frame.begin, frame.begin + 1, "unclosed-parenthesis",
           "this parenthesis is not closed before the form ends",
           "add the missing closing parenthesis");
      return;
    default:
      return unexpected(token,
                        in_arguments ? "a comma or a parenthesis" : "a comma or a full stop");
  }
}

void InfixReader::open(Frame::Kind kind, std::uint32_t begin, PartIndex list) {
  Frame frame;
  frame.kind = kind;
  frame.begin = begin;
  frame.list = list;
  frames_.push_back(std::move(frame));
  wants_operand_ = true;
  if (++depth_ <= options_.limits.nesting + 1) return;
  fail(begin, begin + 1, "too-deep",
       fmt::format("this is nested more than {} deep", options_.limits.nesting),
       "give inner parts a relation of their own");
  stopped_ = true;
}

void InfixReader::close(const Token& token) {
  if (frames_.size() == 1) {
    fail(token.begin, token.end, "unopened-parenthesis", "this parenthesis closes nothing",
         "remove it, or open what it should close");
    tokens_.skip_form();
    return;
  }
  Frame& frame = frames_.back();
  PartIndex part = frame.list;
  if (frame.kind == Frame::Kind::arguments) {
    if (!wants_operand_) take_argument();
    parts_[part].node.end = token.end;
  } else {
    const bool is_made_here = frame.head != none || frame.alternatives.size() > 1 ||
                              frame.alternatives.front().size() > 1;
    part = value(frame);
    if (is_made_here) {  // what was made here begins and ends with its parentheses
      parts_[part].node.begin = frame.begin;
      parts_[part].node.end = token.end;
    }
  }
  frames_.pop_back();
  --depth_;
  add_operand(part);
}

void InfixReader::finish_form(const Token& stop) {
  const bool is_rule = frames_.back().head != none;
  const PartIndex root = value(frames_.back());
  if (is_rule) parts_[root].node.end = stop.end;
  frames_.pop_back();
  --depth_;
  wants_operand_ = true;
  write(root);
  parts_.clear();
}

// An operand is complete: the negations before it take it.
void InfixReader::add_operand(PartIndex part) {
  Frame& frame = frames_.back();
  for (; !frame.negations.empty(); frame.negations.pop_back()) {
    part = list("not", {part});
    parts_[part].node.begin = frame.negations.back();
    parts_[parts_[part].first].node.begin = frame.negations.back();
    parts_[parts_[part].first].node.end = frame.negations.back() + 2;
    --depth_;
  }
  frame.alternatives.back().push_back(part);
  wants_operand_ = false;
}

void InfixReader::take_argument() {
  Frame& frame = frames_.back();
  append(frame.list, frame.alternatives.front().front());
  frame.alternatives.front().clear();
}

// What stands between the parentheses, or the whole form.
InfixReader::PartIndex InfixReader::value(Frame& frame) {
  std::vector<PartIndex> choices;
  for (const std::vector<PartIndex>& conjunction : frame.alternatives) {
    const bool is_body = frame.head != none && frame.alternatives.size() == 1;
    if (conjunction.size() == 1 || is_body) {
      choices.insert(choices.end(), conjunction.begin(), conjunction.end());
    } else {
      choices.push_back(list("and", conjunction));
    }
  }
  if (frame.alternatives.size() > 1) choices = {list("or", choices)};
  if (frame.head == none) return choices.front();
  choices.insert(choices.begin(), frame.head);
  return list("<=", choices);
}

InfixReader::PartIndex InfixReader::leaf(Node::Kind kind, std::uint32_t begin, std::uint32_t end,
                                         std::string_view text) {
  const auto index = static_cast<PartIndex>(parts_.size());
  Part part;
  part.node.kind = kind;
  part.node.begin = begin;
  part.node.end = end;
  part.node.text = text;
  parts_.push_back(part);
  if (kind != Node::Kind::list) too_many_ = names_.note(text) > options_.limits.symbols;
  return index;
}

// A list that an operator makes; its head stands where it begins.
InfixReader::PartIndex InfixReader::list(std::string_view head,
                                         const std::vector<PartIndex>& children) {
  const std::uint32_t begin = parts_[children.front()].node.begin;
  const PartIndex result = leaf(Node::Kind::list, begin, parts_[children.back()].node.end, {});
  append(result, leaf(Node::Kind::symbol, begin, begin + 1, head));
  for (const PartIndex child : children) append(result, child);
  return result;
}

void InfixReader::append(PartIndex list, PartIndex child) {
  Part& parent = parts_[list];
  ++parent.node.children;
  if (parent.last == none) {
    parent.first = child;
  } else {
    parts_[parent.last].next = child;
  }
  parent.last = child;
}

void InfixReader::write(PartIndex root) {
  struct Open {
    NodeIndex node;
    PartIndex next;  // child to write
  };
  std::vector<Open> open;
  const auto put = [&](PartIndex part) {
    open.push_back({static_cast<NodeIndex>(tree_.nodes_.size()), parts_[part].first});
    tree_.nodes_.push_back(parts_[part].node);
  };
  tree_.forms_.push_back(static_cast<NodeIndex>(tree_.nodes_.size()));
  put(root);
  while (!open.empty()) {
    const PartIndex next = open.back().next;
    if (next == none) {
      const NodeIndex node = open.back().node;
      tree_.nodes_[node].size = static_cast<std::uint32_t>(tree_.nodes_.size() - node);
      open.pop_back();
      continue;
    }
    open.back().next = parts_[next].next;
    put(next);
  }
}

Tree read_infix(Source source, const ReaderOptions& options, Diagnostics& diagnostics) {
  Tree tree(std::move(source));
  InfixReader(tree, options, diagnostics).run();
  return tree;
}

}  // namespace orchard::syntax
