// Where the parts of the search for slips put what they find: one finding a place and code.
#pragma once

#include <set>
#include <string>
#include <utility>

#include "rules/description.hpp"
#include "rules/findings.hpp"

namespace orchard::rules {

class FindingSink {
 public:
  FindingSink(const Description& description, Diagnostics& diagnostics)
      : description_(description),
        diagnostics_(diagnostics),
        allowed_(allowed_codes(description.tree().source().text())) {}

  void add(syntax::NodeIndex node, std::string code, std::string message, std::string remedy,
           Severity severity = Severity::suspicious) {
    if (allowed_.contains(code)) return;
    if (!seen_.emplace(node, code).second) return;
    Diagnostic diagnostic = syntax::error_at(description_.tree(), node, std::move(code),
                                             std::move(message), std::move(remedy));
    diagnostic.severity = severity;
    diagnostics_.add(std::move(diagnostic));
  }

  // What a user wrote once and a directive made many of is one rule: where it was written.
  struct Written {
    const void* text;
    std::uint32_t begin;
    friend auto operator<=>(const Written&, const Written&) = default;
  };
  static Written written(const Description& description, syntax::NodeIndex node) {
    const syntax::Tree& tree = description.tree();
    return {tree.origin(node).source.text().data(), tree[node].begin};
  }

 private:
  const Description& description_;
  Diagnostics& diagnostics_;
  const std::set<std::string> allowed_;  // by comments of the file
  std::set<std::pair<syntax::NodeIndex, std::string>> seen_;
};

// The parts of the search, each with the codes it finds.
void find_repeated_rules(const Description& description, FindingSink& sink);  // duplicate-rule,
// subsumed-rule, repeated-condition, contradictory-conditions
void find_unused(const Description& description, FindingSink& sink);         // unused-relation
void find_mixed_sorts(const Description& description, FindingSink& sink);    // mixed-sorts
void find_broken_orders(const Description& description, FindingSink& sink);  // broken-order
void find_odd_constants(const Description& description, FindingSink& sink);  // odd-constant

}  // namespace orchard::rules
