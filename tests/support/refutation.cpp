#include "support/refutation.hpp"

#include <algorithm>
#include <cstdlib>
#include <optional>
#include <set>
#include <sstream>
#include <vector>

namespace orchard::testing {
namespace {

using Clause = std::vector<int>;

class Checker {
 public:
  void add(Clause clause) {
    for (const int literal : clause) {
      const auto variable = static_cast<std::size_t>(std::abs(literal));
      if (variable >= value_.size()) value_.resize(variable + 1, 0);
    }
    clauses_.push_back(std::move(clause));
  }
  void remove(Clause clause) {
    std::ranges::sort(clause);
    for (std::size_t c = 0; c < clauses_.size(); ++c) {
      Clause other = clauses_[c];
      std::ranges::sort(other);
      if (other != clause) continue;
      clauses_.erase(clauses_.begin() + static_cast<std::ptrdiff_t>(c));
      return;
    }
  }
  // Whether a clause follows by propagation, or may be added without losing satisfiability.
  bool may_add(const Clause& clause) {
    if (follows(clause)) return true;
    if (clause.empty()) return false;
    for (const Clause& other : std::vector<Clause>(clauses_)) {
      if (std::ranges::find(other, -clause.front()) == other.end()) continue;
      Clause both = clause;
      for (const int literal : other) {
        if (literal != -clause.front()) both.push_back(literal);
      }
      if (!follows(both)) return false;
    }
    return true;
  }

 private:
  // Assumes that no literal of it holds, and looks for a clause that then cannot hold.
  bool follows(const Clause& clause) {
    std::ranges::fill(value_, 0);
    for (const int literal : clause) {
      if (holds(literal) == true) return true;
      set(-literal);
    }
    for (bool changed = true; changed;) {
      changed = false;
      for (const Clause& one : clauses_) {
        int open = 0;
        std::size_t count = 0;
        bool satisfied = false;
        for (const int literal : one) {
          const auto known = holds(literal);
          satisfied = satisfied || known == true;
          if (known) continue;
          open = literal;
          ++count;
        }
        if (satisfied || count > 1) continue;
        if (count == 0) return true;
        set(open);
        changed = true;
      }
    }
    return false;
  }
  std::optional<bool> holds(int literal) const {
    const auto variable = static_cast<std::size_t>(std::abs(literal));
    const int value = variable < value_.size() ? value_[variable] : 0;
    if (value == 0) return std::nullopt;
    return (value > 0) == (literal > 0);
  }
  void set(int literal) {
    const auto variable = static_cast<std::size_t>(std::abs(literal));
    if (variable >= value_.size()) value_.resize(variable + 1, 0);
    value_[variable] = literal > 0 ? 1 : -1;
  }

  std::vector<Clause> clauses_;
  std::vector<int> value_;  // by variable: 1 true, -1 false, 0 open
};

}  // namespace

bool is_refutation(const std::string& dimacs, const std::string& proof) {
  Checker checker;
  std::istringstream formula(dimacs);
  for (std::string line; std::getline(formula, line);) {
    if (line.empty() || line[0] == 'c' || line[0] == 'p') continue;
    std::istringstream words(line);
    Clause clause;
    for (int literal = 0; words >> literal && literal != 0;) clause.push_back(literal);
    checker.add(clause);
  }
  std::istringstream steps(proof);
  for (std::string line; std::getline(steps, line);) {
    const bool removes = line.starts_with("d ");
    std::istringstream words(removes ? line.substr(2) : line);
    Clause clause;
    for (int literal = 0; words >> literal && literal != 0;) clause.push_back(literal);
    if (removes) {
      checker.remove(clause);
      continue;
    }
    if (!checker.may_add(clause)) return false;
    if (clause.empty()) return true;
    checker.add(clause);
  }
  return checker.may_add({});
}

}  // namespace orchard::testing
