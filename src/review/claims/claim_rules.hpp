// From claims to rules: every formula becomes relations that hold where it does.
//
// A formula is made of literals (true, legal, does, terminal, goal, relations of the description
// and of the claims file, distinct), and, or, not, implies, (exists ?v RELATION F) and
// (forall ?v RELATION F). A variable that no quantifier binds ranges over all that can stand at its
// places; the claim is about each choice of these for which the conditions hold that never change,
// where the formula is a conjunction with such conditions.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "game/core.hpp"
#include "review/claims/claim_values.hpp"
#include "syntax/tree.hpp"

namespace orchard::review {

struct Claim {
  enum class Kind {
    always,
    never,
    possible,
    eventually,
    until,
    can_force,
    can_force_almost_surely,
    exclusive,
  };
  Kind kind = Kind::always;
  std::string name;
  std::string text;  // of the claim itself
  Place place;
  std::vector<std::size_t> roles;  // who forces
  syntax::NodeIndex formula = syntax::no_node;
  syntax::NodeIndex second = syntax::no_node;    // of until
  std::vector<syntax::NodeIndex> keys;           // of exclusive
  std::vector<std::string> variables;            // that no quantifier binds
  std::vector<std::vector<std::string>> values;  // what each of them can stand for
  std::string range;     // relation of the choices of them that count; empty if all do
  std::string relation;  // holds of the variables where the formula does
  std::string second_relation;
  bool is_beyond = false;  // of a circuit of the first plies: nothing that it is about is met there
  std::vector<std::string> unfit;  // literals that nothing the rules can derive fits
};

// The kinds of claims, and how each is written.
struct ClaimFacts {
  std::string_view name;
  Claim::Kind kind;
  std::string_view form;  // "(always FORMULA)"
};
std::span<const ClaimFacts> claim_table();

class ClaimRules {
 public:
  // `game` has every relation that claims may speak of.
  ClaimRules(const Game& game, const syntax::Tree& tree, Diagnostics& diagnostics);

  // Reads (claim "name" CLAIM); none, with everything reported, if it is no claim.
  std::optional<Claim> read(syntax::NodeIndex form);
  // A formula by itself, as a claim that it is possible.
  std::optional<Claim> read_formula(syntax::NodeIndex formula);

  // The rules made so far, one a line, and of which form each line is.
  const std::string& text() const { return text_; }
  const std::vector<Place>& places() const { return places_; }

 private:
  // A literal of the language, and whether it stands negated.
  struct Literal {
    std::string text;
    bool negated = false;
    std::vector<std::string> variables;
    std::string in_body() const { return negated ? "(not " + text + ")" : text; }
  };

  bool error(syntax::NodeIndex node, std::string message, Remedy remedy);
  std::string text_of(syntax::NodeIndex node) const {
    return tree_.canonical_text(node, node + tree_[node].size);
  }
  bool read_body(syntax::NodeIndex body, Claim& claim);
  bool finish(Claim& claim);
  void restrict_range(Claim& claim);
  std::optional<Literal> formula(syntax::NodeIndex node);
  std::optional<Literal> connective(syntax::NodeIndex node, std::string_view head);
  std::optional<Literal> quantified(syntax::NodeIndex node, bool exists);
  std::optional<Literal> literal(syntax::NodeIndex node);
  bool check_relation(syntax::NodeIndex node, const Term& atom);
  bool check_role(syntax::NodeIndex node, const Term& role);
  std::optional<Literal> exclusive(const Claim& claim);
  void add_rule(const std::string& head, const std::vector<std::string>& variables,
                const std::vector<Literal>& body);
  void begin(const Place& place);
  std::string new_relation() { return prefix_ + std::to_string(++relations_); }
  std::string domain_of(const std::string& variable) const;

  const Game& game_;
  const rules::Description& description_;
  const syntax::Tree& tree_;
  Diagnostics& diagnostics_;
  std::string text_;
  std::vector<Place> places_;
  Place place_;  // of the form being read
  std::size_t relations_ = 0;
  std::size_t claims_ = 0;
  std::string prefix_ = "claimed_";  // of relations; none of the game's begins so
  ClaimValues values_;               // of the claim being read, by variable
  std::vector<std::string> unfit_;   // of its literals
  std::set<std::string> guarded_;    // its variables that rules have values of
};

// An atom with its arguments, "(holds a b)", or its name alone.
std::string atom_text(const std::string& name, const std::vector<std::string>& arguments);

}  // namespace orchard::review
