// What (#count ?n (NAME ARGUMENT… ?n) WHERE CONDITION…) stands for: rules by which, wherever WHERE
// holds, ?n is how many of the conditions do.
//
//   (<= (NAME_so_far 0 ARGUMENT… 0) WHERE)
//   (<= (NAME_so_far 1 ARGUMENT… 1) (NAME_so_far 0 ARGUMENT… 0) CONDITION)
//   (<= (NAME_so_far 1 ARGUMENT… ?n) (NAME_so_far 0 ARGUMENT… ?n) (not CONDITION))
//   … one condition after the other …
//   (<= (NAME ARGUMENT… ?n) (NAME_so_far K ARGUMENT… ?n))
//
// For k conditions these are k(k + 3)/2 + 2 rules. Their nodes keep the places of what they were
// copied from.
#pragma once

#include <functional>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "syntax/tree.hpp"

namespace orchard::syntax {

// Why the form cannot be a count, and at which of its nodes.
struct CountFault {
  std::size_t node = 0;
  std::string message;
  std::string remedy;
};

class CountRules {
 public:
  // `form`: the nodes of the whole form. `keep(text)` gives a view of a text that lives as long as
  // the tree.
  CountRules(std::span<const Node> form, std::function<std::string_view(std::string)> keep);

  // None if it is written as it should be.
  std::optional<CountFault> fault() const;
  // The rules, one after the other, each as its nodes in prefix order with their sizes.
  void each(const std::function<bool(std::vector<Node>)>& rule) const;

 private:
  using Nodes = std::vector<Node>;
  std::span<const Node> part(std::size_t number) const;  // of the form, its head is number 0
  Node symbol(std::string text) const;
  Nodes list(std::initializer_list<Nodes> parts) const;
  Nodes so_far(std::size_t counted, const Nodes& number) const;
  std::vector<std::string_view> variables(std::span<const Node> nodes) const;

  std::span<const Node> form_;
  std::function<std::string_view(std::string)> keep_;
  std::vector<std::size_t> parts_;  // where they begin
};

}  // namespace orchard::syntax
