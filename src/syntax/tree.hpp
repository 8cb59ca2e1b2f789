// The forms of a text: nested lists of symbols, with their places.
//
// All nodes stand in one array in prefix order; a node knows how many nodes it begins, so the
// next sibling of node i is node i + size. Nothing that walks a tree recurses: depth is the
// user's to choose. Owns its text; immutable once read.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/term.hpp"
#include "syntax/source.hpp"

namespace orchard::syntax {

using NodeIndex = std::uint32_t;
inline constexpr NodeIndex no_node = 0xFFFFFFFF;

struct Node {
  enum class Kind : std::uint8_t { symbol, variable, string, list };
  Kind kind = Kind::symbol;
  std::uint32_t size = 1;      // nodes of the subtree, this one included
  std::uint32_t children = 0;  // of a list
  std::uint32_t begin = 0;     // bytes in the source, a list with its parentheses
  std::uint32_t end = 0;
  std::string_view text;     // lower-case name; for a string its contents; empty for a list
  std::uint32_t origin = 0;  // where it comes from, see Origin
};

// Which text a node was read from, and the directive that made it, if any.
struct Origin {
  Source source;
  std::uint32_t begin = 0;  // of the directive in the source; begin == end if there is none
  std::uint32_t end = 0;
  std::string bindings;  // "?row = 3, ?column = 1"
  bool is_expanded() const { return begin < end; }
};

struct Comment {  // from its mark to the end of the line
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
};

class Tree {
 public:
  explicit Tree(Source source) { origins_.push_back({std::move(source), 0, 0, {}}); }
  Tree(Tree&&) = default;
  Tree& operator=(Tree&&) = default;
  Tree(const Tree&) = delete;  // nodes view the text pool of their own tree
  Tree& operator=(const Tree&) = delete;

  const Source& source() const { return origins_.front().source; }  // the file first opened
  const std::vector<NodeIndex>& forms() const { return forms_; }    // the top-level nodes
  const Node& operator[](NodeIndex index) const { return nodes_[index]; }
  std::size_t size() const { return nodes_.size(); }
  const std::vector<Comment>& comments() const { return comments_; }  // of a tree as it was read
  // The numbers of #let that an expanded tree was made with.
  const std::map<std::string, std::int64_t>& sizes() const { return sizes_; }

  const Origin& origin(NodeIndex index) const { return origins_[nodes_[index].origin]; }
  Place place(NodeIndex index) const {
    return origin(index).source.place(nodes_[index].begin, nodes_[index].end);
  }

  bool is_list(NodeIndex index) const { return nodes_[index].kind == Node::Kind::list; }
  bool is_symbol(NodeIndex index) const { return nodes_[index].kind == Node::Kind::symbol; }
  bool is_variable(NodeIndex index) const { return nodes_[index].kind == Node::Kind::variable; }

  // All forms in lower case with single spaces, without comments, one form a line.
  std::string canonical_text() const;
  std::string canonical_text(NodeIndex from, NodeIndex end) const;
  // Leaves out the forms that `unwanted` says.
  template <class Unwanted>
  void leave_out(Unwanted&& unwanted) {
    std::erase_if(forms_, [&](NodeIndex form) { return unwanted(*this, form); });
  }
  // The top-level form that a node belongs to.
  NodeIndex form_of(NodeIndex index) const;

  // The children of a list, for range loops; none for a leaf.
  std::vector<NodeIndex> children(NodeIndex index) const;
  // The name of a symbol, or of the symbol at the head of a list; else empty.
  std::string_view head(NodeIndex index) const;

 private:
  friend class TreeBuilder;
  friend class InfixReader;
  friend class Expander;

  std::vector<Origin> origins_;
  std::vector<Node> nodes_;
  std::vector<NodeIndex> forms_;
  std::vector<Comment> comments_;
  std::vector<std::shared_ptr<const std::string>> folded_;  // texts that differ from the source
  std::map<std::string, std::int64_t> sizes_;
};

// Diagnostic at a node. If a directive made the node, a note shows the directive and the form that
// came of it.
Diagnostic error_at(const Tree& tree, NodeIndex index, std::string code, std::string message,
                    Remedy remedy = {});

// Adds the same to `diagnostics`; when those are full it is only counted, without the cost of
// finding its place.
void report(const Tree& tree, NodeIndex index, std::string code, std::string message,
            Remedy remedy, Diagnostics& diagnostics);

// A node read as a term: the nodes of its symbols in prefix order, with their arities. A list of
// one symbol is read as the constant.
struct TermNode {
  NodeIndex node = no_node;  // a symbol or variable, the head of its list if it has arguments
  std::uint32_t arity = 0;
};

// Fails with `not-a-term` at the place: strings, (), lists headed by a variable or a list.
Result<std::vector<TermNode>> term_nodes(const Tree& tree, NodeIndex index);

// The same as a value.
Result<Term> term_of(const Tree& tree, NodeIndex index);

// Fills in `size` of symbols in prefix order from their arities; O(length).
template <class Symbol>
void assign_sizes(std::vector<Symbol>& symbols) {
  std::vector<std::uint32_t> right;  // sizes of the subterms to the right, nearest last
  for (std::size_t i = symbols.size(); i-- > 0;) {
    symbols[i].size = 1;
    for (std::uint32_t k = 0; k < symbols[i].arity; ++k) {
      symbols[i].size += right.back();
      right.pop_back();
    }
    right.push_back(symbols[i].size);
  }
}

}  // namespace orchard::syntax
