// Where the parts of the search for slips put what they find: one finding a place, the first.
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

  // Whether it was wanted and is the first there.
  bool add(syntax::NodeIndex node, std::string code, std::string message, Remedy remedy,
           Severity severity = Severity::suspicious) {
    if (allowed_.contains(code)) return false;
    if (!seen_.insert(node).second) return false;
    Diagnostic diagnostic = syntax::error_at(description_.tree(), node, std::move(code),
                                             std::move(message), std::move(remedy));
    diagnostic.severity = severity;
    diagnostics_.add(std::move(diagnostic));
    return true;
  }

  // Whether something was found within a form.
  bool found_in(syntax::NodeIndex form) const {
    const auto first = seen_.lower_bound(form);
    return first != seen_.end() && *first < form + description_.tree()[form].size;
  }

  // A name that another finding says was meant: that nobody asks for it follows from there.
  void explain(std::string name) { explained_.insert(std::move(name)); }
  bool is_explained(const std::string& name) const { return explained_.contains(name); }

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
  std::set<syntax::NodeIndex> seen_;
  std::set<std::string> explained_;
};

// The parts of the search, each with the codes it finds.

// impossible-condition, idle-condition, disjoint-places
void find_impossible(const Description& description, FindingSink& sink);
// duplicate-rule, subsumed-rule, repeated-condition, contradictory-conditions
void find_repeated_rules(const Description& description, FindingSink& sink);
// unused-relation
void find_unused(const Description& description, FindingSink& sink);
// unread-fluent
void find_unread(const Description& description, FindingSink& sink);
// mixed-sorts
void find_mixed_sorts(const Description& description, FindingSink& sink);
// broken-order
void find_broken_orders(const Description& description, FindingSink& sink);
// lonely-name
void find_lonely_names(const Description& description, FindingSink& sink);
// unusable-fact
void find_unusable_facts(const Description& description, FindingSink& sink);
// odd-constant
void find_odd_constants(const Description& description, FindingSink& sink);

// Whether a relation has facts only.
bool is_table(const Description& description, const Relation& relation);

// The first few of a list, for messages.
std::string some_of(const std::vector<std::string>& names);

}  // namespace orchard::rules
