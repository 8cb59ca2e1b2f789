// The meaning of a description by brute force: the judge of the reference evaluator.
//
// Shares nothing with the library but the forms and terms as text values: it reads the rules on
// its own, keeps atoms as strings, orders strata by repeated sweeps, and joins by trying every
// atom for every condition. Slow; for small descriptions.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

namespace orchard::testing {

class NaiveEvaluator {
 public:
  explicit NaiveEvaluator(const std::string& rules);

  using Atoms = std::set<std::string>;  // canonical text: "(legal r0 stay)"

  // Everything derivable from these facts, such as "(true lone)" and "(does r0 stay)".
  Atoms derive(const Atoms& facts) const;
  // Of `atoms`, those of one relation, without its name: "r0 stay" for legal.
  static std::set<std::string> arguments_of(const Atoms& atoms, const std::string& relation);

 private:
  struct Tree {
    std::string symbol;  // empty for a list
    std::vector<Tree> children;
  };
  struct Rule {
    Tree head;
    std::vector<Tree> body;
  };
  using Binding = std::map<std::string, Tree>;

  static std::vector<Tree> parse(const std::string& text);
  static std::string text_of(const Tree& tree);
  static std::string relation_of(const Tree& atom);
  static Tree substitute(const Tree& tree, const Binding& binding);
  static bool match(const Tree& pattern, const Tree& value, Binding& binding);
  void solve(const Rule& rule, std::size_t condition, Binding binding,
             const std::map<std::string, std::vector<Tree>>& known, std::vector<Tree>& out) const;
  bool holds(const Tree& condition, const Binding& binding,
             const std::map<std::string, std::vector<Tree>>& known) const;
  void find_strata();

  std::vector<Rule> rules_;
  std::map<std::string, int> stratum_;
};

}  // namespace orchard::testing
