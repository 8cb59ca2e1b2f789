// How a form is spelled in a syntax: what opens, separates and closes its parts, and where lines
// may break. Inner part of formatting.
#pragma once

#include <string>
#include <string_view>

#include "orchard/format.hpp"
#include "syntax/tree.hpp"

namespace orchard::syntax {

struct Shape {
  NodeIndex name = no_node;  // printed before `open`: the function's name in the infix syntax
  std::string_view open;
  std::string_view first_separator;  // behind the first part …
  std::string_view separator;        // … and behind each other one but the last
  std::string_view close;
  NodeIndex first = no_node;  // part; the others follow
  std::uint32_t parts = 0;
  std::uint32_t kept = 0;    // parts that stay on the opening line
  std::uint32_t indent = 4;  // of the others
  bool hangs = false;        // `indent` counts from the column in which the form begins
  bool breaks = false;       // always on several lines
  bool fills = false;        // several parts a line where they fit
  bool rules = false;        // the parts that are not kept are rules: blank lines stay
};

// `among_rules`: the form stands where a rule may stand; `inside`: within another form.
Shape shape_of(const Tree& tree, NodeIndex list, Syntax syntax, bool among_rules, bool inside);

// A symbol, variable or string as the syntax writes it.
std::string spelling(const Node& leaf, Syntax syntax);
// The same length in characters, without making it.
std::uint32_t spelling_length(const Node& leaf, Syntax syntax);

// Whether the syntax can say a node itself, its parts aside.
bool can_say(const Tree& tree, NodeIndex node, Syntax syntax);

}  // namespace orchard::syntax
