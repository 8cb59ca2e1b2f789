#include "syntax/shape.hpp"

#include <algorithm>

#include "syntax/characters.hpp"

namespace orchard::syntax {
namespace {

// Names are in lower case by now.
bool is_lower_word(char c) {
  return is_word_letter(c) && !is_capital_letter(c);
}

bool all_of(std::string_view text, bool (*part)(char)) {
  return !text.empty() && std::all_of(text.begin(), text.end(), part);
}

// Names that the infix syntax takes without quotes.
bool is_plain(std::string_view name) {
  if (is_small_letter(name.front())) return all_of(name, is_lower_word);
  if (name.front() == '#') {
    const std::string_view rest = name.substr(1);
    return all_of(rest, is_small_letter) || rest == "+" || rest == "-" || rest == "*";
  }
  return all_of(name.front() == '-' ? name.substr(1) : name, is_digit);
}

bool is_plain_variable(std::string_view name) {  // without its question mark
  return !name.empty() && name != "_" && (is_small_letter(name.front()) || name.front() == '_') &&
         all_of(name, is_lower_word);
}

std::string in_marks(std::string_view text, char mark) {
  std::string result(1, mark);
  for (const char c : text) {
    if (c == mark || c == '\\') result += '\\';
    result += c;
  }
  return result += mark;
}

Shape prefix_shape(const Tree& tree, NodeIndex list, bool among_rules) {
  const Node& node = tree[list];
  const std::string_view head = tree.is_symbol(list + 1) ? tree[list + 1].text : "";
  Shape shape;
  shape.open = "(";
  shape.close = ")";
  shape.first = list + 1;
  shape.parts = node.children;
  shape.kept = 1;
  shape.fills = head != "or" && head != "and" && head != "not";
  constexpr std::size_t longest_head = 12;
  if (shape.fills && !head.empty() && head.size() <= longest_head && node.children > 1) {
    shape.hangs = true;  // the second part stays on the line, the others stand below it
    shape.kept = 2;
    shape.indent = static_cast<std::uint32_t>(count_characters(head)) + 2;
  }
  if (!among_rules) return shape;
  if (head == "<=" && node.children > 2) {
    shape.hangs = false;
    shape.indent = 4;
    shape.kept = 2;
    shape.breaks = true;
    shape.fills = false;
  } else if ((head == "#for" && node.children > 4) || (head == "#count" && node.children > 3)) {
    shape.hangs = false;
    shape.kept = head == "#for" ? 4 : 3;
    shape.indent = 2;
    shape.breaks = true;
    shape.fills = false;
    shape.rules = true;
  } else if (head == "case" && node.children > 2) {
    shape.hangs = false;
    shape.kept = 2;
    shape.indent = 2;
    shape.breaks = true;
    shape.fills = false;
  }
  return shape;
}

Shape infix_shape(const Tree& tree, NodeIndex list, bool among_rules, bool inside) {
  const Node& node = tree[list];
  const std::string_view head = tree.head(list);
  Shape shape;
  shape.first = list + 2;
  shape.parts = node.children - 1;
  shape.separator = shape.first_separator = ",";
  shape.close = ")";
  if (head == "<=" && shape.parts > 1) {
    shape.open = inside ? "(" : "";
    shape.close = inside ? ")" : "";
    shape.first_separator = " :-";
    shape.kept = 1;
    shape.breaks = among_rules;
  } else if (head == "not" && shape.parts == 1) {
    shape.open = "\\+ ";
    shape.close = "";
    shape.kept = 1;
  } else if ((head == "or" || head == "and") && shape.parts > 1) {
    shape.open = "(";
    shape.kept = 1;
    shape.indent = 1;
    if (head == "or") shape.separator = shape.first_separator = " ;";
  } else {
    shape.name = list + 1;
    shape.open = "(";
    shape.fills = true;
    if (among_rules && head == "#for" && shape.parts > 3) {
      shape.kept = 3;
      shape.breaks = true;
      shape.fills = false;
      shape.rules = true;
    }
  }
  return shape;
}

}  // namespace

Shape shape_of(const Tree& tree, NodeIndex list, Syntax syntax, bool among_rules, bool inside) {
  if (tree[list].children == 0) {
    Shape empty;
    empty.open = "(";
    empty.close = ")";
    return empty;
  }
  return syntax == Syntax::prefix ? prefix_shape(tree, list, among_rules)
                                  : infix_shape(tree, list, among_rules, inside);
}

std::string spelling(const Node& leaf, Syntax syntax) {
  if (leaf.kind == Node::Kind::string) return in_marks(leaf.text, '"');
  if (syntax == Syntax::prefix) return std::string(leaf.text);
  if (leaf.kind == Node::Kind::symbol) {
    return is_plain(leaf.text) ? std::string(leaf.text) : in_marks(leaf.text, '\'');
  }
  const std::string_view name = leaf.text.substr(1);
  if (!is_plain_variable(name)) return "?" + in_marks(name, '\'');
  std::string result(name);
  if (is_small_letter(result[0])) result[0] = static_cast<char>(result[0] - 'a' + 'A');
  return result;
}

std::uint32_t spelling_length(const Node& leaf, Syntax syntax) {
  const bool as_it_is = syntax == Syntax::prefix && leaf.kind != Node::Kind::string;
  return static_cast<std::uint32_t>(as_it_is ? count_characters(leaf.text)
                                             : count_characters(spelling(leaf, syntax)));
}

bool can_say(const Tree& tree, NodeIndex node, Syntax syntax) {
  if (syntax == Syntax::prefix) return true;
  const Node& here = tree[node];
  switch (here.kind) {
    case Node::Kind::list:
      return here.children > 0 && tree.is_symbol(node + 1);
    case Node::Kind::symbol:
      return !here.text.starts_with('"');
    case Node::Kind::variable:
      return here.text.size() > 1;
    case Node::Kind::string:
      return here.text.find('\n') == std::string_view::npos;
  }
  return false;
}

}  // namespace orchard::syntax
