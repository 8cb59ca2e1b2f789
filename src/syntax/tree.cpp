#include "syntax/tree.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard::syntax {

std::vector<NodeIndex> Tree::children(NodeIndex index) const {
  std::vector<NodeIndex> result;
  result.reserve(nodes_[index].children);
  NodeIndex child = index + 1;
  for (std::uint32_t i = 0; i < nodes_[index].children; ++i) {
    result.push_back(child);
    child += nodes_[child].size;
  }
  return result;
}

std::string Tree::canonical_text() const {
  return canonical_text(0, static_cast<NodeIndex>(nodes_.size())) + "\n";
}

NodeIndex Tree::form_of(NodeIndex index) const {
  return *(std::upper_bound(forms_.begin(), forms_.end(), index) - 1);
}

std::string Tree::canonical_text(NodeIndex from, NodeIndex end) const {
  std::string text;
  std::vector<NodeIndex> ends;  // of the open lists
  const auto close = [&](NodeIndex at) {
    while (!ends.empty() && ends.back() <= at) {
      text += ')';
      ends.pop_back();
    }
  };
  for (NodeIndex at = from; at < end; ++at) {
    close(at);
    if (!text.empty() && text.back() != '(') text += ends.empty() ? '\n' : ' ';
    if (is_list(at)) {
      text += '(';
      ends.push_back(at + nodes_[at].size);
    } else {
      text += nodes_[at].text;
    }
  }
  close(end);
  return text;
}

std::string_view Tree::head(NodeIndex index) const {
  const Node& node = nodes_[index];
  if (node.kind == Node::Kind::symbol) return node.text;
  if (node.kind != Node::Kind::list || node.children == 0) return {};
  const Node& first = nodes_[index + 1];
  return first.kind == Node::Kind::symbol ? first.text : std::string_view{};
}

Diagnostic error_at(const Tree& tree, NodeIndex index, std::string code, std::string message,
                    Remedy remedy) {
  Diagnostic diagnostic = plain_error(std::move(code), std::move(message), std::move(remedy));
  diagnostic.place = tree.place(index);
  if (const Origin& origin = tree.origin(index); origin.is_expanded()) {
    constexpr std::size_t longest = 200;  // of the form shown
    const NodeIndex form = tree.form_of(index);
    std::string text = tree.canonical_text(form, form + tree[form].size);
    if (text.size() > longest) text.replace(longest, std::string::npos, " …");
    diagnostic.notes.push_back(
        {origin.source.place(origin.begin, origin.end),
         fmt::format("expanded from here{}{}: {}", origin.bindings.empty() ? "" : " with ",
                     origin.bindings, text)});
  }
  return diagnostic;
}

void report(const Tree& tree, NodeIndex index, std::string code, std::string message, Remedy remedy,
            Diagnostics& diagnostics) {
  if (diagnostics.full()) return diagnostics.count(Severity::error);
  diagnostics.add(error_at(tree, index, std::move(code), std::move(message), std::move(remedy)));
}

namespace {

// What stands in the way of reading the node as part of a term, or empty.
std::string_view fault_in_term(const Tree& tree, NodeIndex at) {
  const Node& node = tree[at];
  if (node.kind == Node::Kind::string) return "a string cannot stand in a term";
  if (node.kind != Node::Kind::list) return {};
  if (node.children == 0) return "() is not a term";
  if (!tree.is_symbol(at + 1)) return "a term begins with a name";
  return {};
}

}  // namespace

Result<std::vector<TermNode>> term_nodes(const Tree& tree, NodeIndex index) {
  std::vector<TermNode> result;
  const NodeIndex end = index + tree[index].size;
  for (NodeIndex at = index; at < end; ++at) {
    if (const auto fault = fault_in_term(tree, at); !fault.empty()) {
      return error_at(tree, at, "not-a-term", std::string(fault),
                      "write a name, or a list that begins with one: (place 1 2)");
    }
    const std::uint32_t arity = tree.is_list(at) ? tree[at].children - 1 : 0;
    if (tree.is_list(at)) ++at;  // on to the name at its head
    result.push_back({at, arity});
  }
  return result;
}

Result<Term> term_of(const Tree& tree, NodeIndex index) {
  const auto nodes = term_nodes(tree, index);
  if (!nodes) return nodes.diagnostics();
  std::vector<Term::Symbol> symbols;
  symbols.reserve(nodes->size());
  for (const TermNode& next : *nodes) {
    symbols.push_back({std::string(tree[next.node].text), next.arity, 1});
  }
  assign_sizes(symbols);
  return Term::from_symbols(std::move(symbols));
}

}  // namespace orchard::syntax
