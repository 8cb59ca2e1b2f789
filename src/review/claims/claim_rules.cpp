#include "review/claims/claim_rules.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <set>

#include "base/similar.hpp"
#include "game/lane_game.hpp"
#include "review/claims/claim_values.hpp"

namespace orchard::review {

using syntax::NodeIndex;

namespace {

constexpr std::array facts_of_claims{
    ClaimFacts{"always", Claim::Kind::always, "(always FORMULA)"},
    ClaimFacts{"never", Claim::Kind::never, "(never FORMULA)"},
    ClaimFacts{"possible", Claim::Kind::possible, "(possible FORMULA)"},
    ClaimFacts{"eventually", Claim::Kind::eventually, "(eventually FORMULA)"},
    ClaimFacts{"until", Claim::Kind::until, "(until FORMULA FORMULA)"},
    ClaimFacts{"can-force", Claim::Kind::can_force, "(can-force ROLE… FORMULA)"},
    ClaimFacts{"can-force-almost-surely", Claim::Kind::can_force_almost_surely,
               "(can-force-almost-surely ROLE… FORMULA)"},
    ClaimFacts{"exclusive", Claim::Kind::exclusive, "(exclusive FLUENT KEY…)"},
};

constexpr std::size_t most_values = 20'000;  // that the variables of a claim take together

void add_variables(const Term& term, std::vector<std::string>& variables) {
  for (const Term::Symbol& symbol : term.symbols()) {
    if (symbol.name.starts_with('?') &&
        std::ranges::find(variables, symbol.name) == variables.end()) {
      variables.push_back(symbol.name);
    }
  }
}

}  // namespace

std::span<const ClaimFacts> claim_table() {
  return facts_of_claims;
}

std::string atom_text(const std::string& name, const std::vector<std::string>& arguments) {
  if (arguments.empty()) return name;
  std::string result = "(" + name;
  for (const std::string& argument : arguments) result += " " + argument;
  return result += ")";
}

bool ClaimRules::error(NodeIndex node, std::string message, Remedy remedy) {
  syntax::report(tree_, node, "bad-claim", std::move(message), std::move(remedy), diagnostics_);
  return false;
}

ClaimRules::ClaimRules(const Game& game, const syntax::Tree& tree, Diagnostics& diagnostics)
    : game_(game),
      description_(GameAccess::core(game)->program().description()),
      tree_(tree),
      diagnostics_(diagnostics) {
  const auto taken = [&] {
    return std::ranges::any_of(description_.relations(), [&](const rules::Relation& relation) {
      return description_.terms().name(relation.name).starts_with(prefix_);
    });
  };
  while (taken()) prefix_ += "_";
}

void ClaimRules::begin(const Place& place) {
  place_ = place;
  values_.clear();
  guarded_.clear();
  unfit_.clear();
  ++claims_;
}

std::optional<Claim> ClaimRules::read(NodeIndex form) {
  const std::vector<NodeIndex> parts = tree_.children(form);
  if (parts.size() != 3 || tree_[parts[1]].kind != syntax::Node::Kind::string) {
    error(form, "expected a claim", "write (claim \"name\" (always …))");
    return std::nullopt;
  }
  Claim claim;
  claim.name = std::string(tree_[parts[1]].text);
  claim.place = tree_.place(form);
  claim.text = text_of(parts[2]);
  begin(claim.place);
  if (!read_body(parts[2], claim) || !finish(claim)) return std::nullopt;
  return claim;
}

std::optional<Claim> ClaimRules::read_formula(NodeIndex node) {
  Claim claim;
  claim.kind = Claim::Kind::possible;
  claim.place = tree_.place(node);
  claim.text = text_of(node);
  claim.formula = node;
  begin(claim.place);
  if (!finish(claim)) return std::nullopt;
  return claim;
}

bool ClaimRules::read_body(NodeIndex body, Claim& claim) {
  const std::vector<NodeIndex> parts = tree_.children(body);
  const std::string_view head = tree_.head(body);
  const auto facts = std::ranges::find(facts_of_claims, head, &ClaimFacts::name);
  if (facts == facts_of_claims.end()) {
    std::string forms;
    for (const ClaimFacts& known : facts_of_claims) {
      forms += (forms.empty() ? "" : ", ") + std::string(known.name);
    }
    return error(body, "a claim says one of these of a formula", forms);
  }
  claim.kind = facts->kind;
  const bool forces =
      claim.kind == Claim::Kind::can_force || claim.kind == Claim::Kind::can_force_almost_surely;
  const bool has_keys = claim.kind == Claim::Kind::exclusive && parts.size() > 2;
  const std::size_t wanted = claim.kind == Claim::Kind::until ? 3 : 2;
  if (forces ? parts.size() < 3 : parts.size() != wanted && !has_keys) {
    return error(body, fmt::format("{} has another form", head),
                 "write " + std::string(facts->form));
  }
  const bool is_first = claim.kind == Claim::Kind::until || has_keys;
  claim.formula = is_first ? parts[1] : parts.back();
  if (has_keys) claim.keys.assign(parts.begin() + 2, parts.end());
  if (claim.kind == Claim::Kind::until) claim.second = parts[2];
  for (std::size_t i = 1; forces && i + 1 < parts.size(); ++i) {
    const auto role = game_.role(text_of(parts[i]));
    if (!role || role->is_chance()) {
      return error(parts[i],
                   fmt::format("{} is not a role that can force anything", text_of(parts[i])),
                   "name roles of the game before the formula");
    }
    claim.roles.push_back(role->index());
  }
  return true;
}

// Compiles the formulas into relations of the claim's variables.
bool ClaimRules::finish(Claim& claim) {
  auto first = claim.kind == Claim::Kind::exclusive ? exclusive(claim) : formula(claim.formula);
  if (!first) return false;
  std::optional<Literal> second;
  if (claim.second != syntax::no_node && !(second = formula(claim.second))) return false;
  claim.variables = first->variables;
  if (second) {
    for (const std::string& variable : second->variables) {
      if (std::ranges::find(claim.variables, variable) == claim.variables.end()) {
        claim.variables.push_back(variable);
      }
    }
  }
  std::size_t together = 1;
  for (const std::string& variable : claim.variables) {
    std::vector<Term>& values = values_[variable];
    if (values.empty() && GameAccess::core(game_)->exact_plies()) {
      claim.is_beyond = true;  // what it is about may come after the first plies
      values.push_back(Term::constant("nothing_yet"));
    }
    if (values.empty()) {
      return error(claim.formula, fmt::format("nothing can stand for {}", variable),
                   "see orchard check --domains for what can stand where");
    }
    together *= std::min(values.size(), most_values + 1);
    if (together <= most_values) continue;
    return error(claim.formula,
                 fmt::format("its variables stand for more than {} choices", most_values),
                 "bind some of them with exists or forall, or use a helper rule");
  }
  // A claim that something always holds is looked at where it does not.
  if (claim.kind == Claim::Kind::always) first->negated = !first->negated;
  restrict_range(claim);
  claim.relation = new_relation();
  add_rule(claim.relation, claim.variables, {*first});
  if (second) {
    claim.second_relation = new_relation();
    add_rule(claim.second_relation, claim.variables, {*second});
  }
  for (const std::string& variable : claim.variables) {
    std::vector<std::string>& values = claim.values.emplace_back();
    for (const Term& value : values_[variable]) values.push_back(value.to_string());
  }
  claim.unfit = unfit_;
  for (const std::string& variable : guarded_) {
    for (const Term& value : values_[variable]) {
      text_ += fmt::format("({} {})\n", domain_of(variable), value.to_string());
      places_.push_back(place_);
    }
  }
  return true;
}

// Of a claim that something comes about: conditions that never change say what it is about.
void ClaimRules::restrict_range(Claim& claim) {
  const NodeIndex conjunction = claim.second == syntax::no_node ? claim.formula : claim.second;
  const bool comes_about = claim.kind != Claim::Kind::always && claim.kind != Claim::Kind::never &&
                           claim.kind != Claim::Kind::exclusive;
  if (!comes_about || claim.variables.empty() || tree_.head(conjunction) != "and") return;
  const ground::GroundProgram& ground = GameAccess::core(game_)->lanes_near_start()->ground();
  std::vector<Literal> constant;
  for (const NodeIndex part : tree_.children(conjunction)) {
    const auto atom = syntax::term_of(tree_, part);
    if (!atom || part == tree_.children(conjunction).front()) continue;
    const auto relation =
        description_.find(atom->name(), static_cast<std::uint32_t>(atom->arity()));
    const bool compares = atom->name() == "distinct" && atom->arity() == 2;
    if (!compares && (!relation || !ground.is_constant(*relation))) continue;
    constant.push_back({atom->to_string(), false, {}});
  }
  if (constant.empty()) return;
  claim.range = new_relation();
  add_rule(claim.range, claim.variables, constant);
}

std::string ClaimRules::domain_of(const std::string& variable) const {
  return fmt::format("{}{}_in_{}", prefix_, variable.substr(1), claims_);
}

void ClaimRules::add_rule(const std::string& head, const std::vector<std::string>& variables,
                          const std::vector<Literal>& body) {
  text_ += "(<= " + atom_text(head, variables);
  for (const std::string& variable : variables) {
    text_ += fmt::format(" ({} {})", domain_of(variable), variable);
    guarded_.insert(variable);
  }
  for (const Literal& literal : body) text_ += " " + literal.in_body();
  text_ += ")\n";
  places_.push_back(place_);
}

std::optional<ClaimRules::Literal> ClaimRules::formula(NodeIndex node) {
  const std::string_view head = tree_.head(node);
  const bool is_list = tree_.is_list(node);
  if (is_list && (head == "and" || head == "or" || head == "not" || head == "implies")) {
    return connective(node, head);
  }
  if (is_list && (head == "exists" || head == "forall")) return quantified(node, head == "exists");
  return literal(node);
}

std::optional<ClaimRules::Literal> ClaimRules::connective(NodeIndex node, std::string_view head) {
  std::vector<NodeIndex> parts = tree_.children(node);
  parts.erase(parts.begin());
  const std::size_t wanted = head == "not" ? 1 : 2;
  if (parts.size() < (head == "or" || head == "and" ? 1 : wanted) ||
      ((head == "not" || head == "implies") && parts.size() != wanted)) {
    error(node,
          fmt::format("{} takes {}", head,
                      head == "not"       ? "one formula"
                      : head == "implies" ? "two formulas"
                                          : "formulas"),
          fmt::format("write ({} F{})", head, head == "not" ? "" : " G"));
    return std::nullopt;
  }
  std::vector<Literal> inner;
  for (const NodeIndex part : parts) {
    auto next = formula(part);
    if (!next) return std::nullopt;
    inner.push_back(std::move(*next));
  }
  if (head == "not") {
    inner[0].negated = !inner[0].negated;
    return inner[0];
  }
  if (head == "implies") inner[0].negated = !inner[0].negated;
  Literal result;
  for (const Literal& next : inner) {
    for (const std::string& variable : next.variables) {
      if (std::ranges::find(result.variables, variable) == result.variables.end()) {
        result.variables.push_back(variable);
      }
    }
  }
  const std::string relation = new_relation();
  result.text = atom_text(relation, result.variables);
  if (head == "and") {
    add_rule(relation, result.variables, inner);
  } else {
    for (const Literal& next : inner) add_rule(relation, result.variables, {next});
  }
  return result;
}

std::optional<ClaimRules::Literal> ClaimRules::quantified(NodeIndex node, bool exists) {
  const std::vector<NodeIndex> parts = tree_.children(node);
  if (parts.size() != 4 || !tree_.is_variable(parts[1])) {
    error(node, "a quantifier has another form",
          fmt::format("write ({} ?v RELATION FORMULA)", exists ? "exists" : "forall"));
    return std::nullopt;
  }
  const std::string variable(tree_[parts[1]].text);
  Literal range;
  if (tree_.is_symbol(parts[2])) {
    const std::string name(tree_[parts[2]].text);
    if (!check_relation(parts[2], Term::function(name, {Term::constant(variable)})))
      return std::nullopt;
    range.text = fmt::format("({} {})", name, variable);
    range.variables = {variable};
    gather_values(game_, Term::function(name, {Term::constant(variable)}), values_);
  } else {
    auto read = literal(parts[2]);
    if (!read) return std::nullopt;
    range = std::move(*read);
    if (std::ranges::find(range.variables, variable) == range.variables.end()) {
      error(parts[2], fmt::format("{} does not stand in what it ranges over", variable),
            fmt::format("write (RELATION {})", variable));
      return std::nullopt;
    }
  }
  auto inner = formula(parts[3]);
  if (!inner) return std::nullopt;
  if (!exists) inner->negated = !inner->negated;  // not exists not
  Literal result;
  result.negated = !exists;
  for (const std::vector<std::string>* variables : {&range.variables, &inner->variables}) {
    for (const std::string& next : *variables) {
      if (next != variable && std::ranges::find(result.variables, next) == result.variables.end()) {
        result.variables.push_back(next);
      }
    }
  }
  const std::string relation = new_relation();
  result.text = atom_text(relation, result.variables);
  add_rule(relation, result.variables, {range, *inner});
  return result;
}

bool ClaimRules::check_role(NodeIndex node, const Term& role) {
  if (role.is_variable() || game_.role(role.to_string())) return true;
  std::string names;
  for (const Role& known : game_.roles()) names += (names.empty() ? "" : ", ") + known.name();
  return error(node, fmt::format("{} is not a role", role.to_string()), "the roles are " + names);
}

bool ClaimRules::check_relation(NodeIndex node, const Term& atom) {
  const auto known = description_.find(atom.name(), static_cast<std::uint32_t>(atom.arity()));
  if (known) {
    const rules::Keyword keyword = description_.relation(*known).keyword;
    using rules::Keyword;
    if (keyword == Keyword::next || keyword == Keyword::init || keyword == Keyword::base ||
        keyword == Keyword::input || keyword == Keyword::sees) {
      return error(node, fmt::format("a formula cannot ask for {}", atom.name()),
                   "ask for true, legal, does, terminal, goal or relations of the rules");
    }
    return true;
  }
  std::vector<std::string> names;
  for (const rules::Relation& relation : description_.relations()) {
    const std::string name = description_.terms().name(relation.name);
    if (name == atom.name()) {
      return error(node,
                   fmt::format("{} takes {} argument{}, not {}", name, relation.arity,
                               relation.arity == 1 ? "" : "s", atom.arity()),
                   {});
    }
    names.push_back(name);
  }
  const auto meant = most_similar(atom.name(), names);
  return error(node, fmt::format("no rule is about {}", atom.name()),
               meant ? Remedy::name_meant(atom.name(), *meant)
                     : "use a relation of the description, or write a rule for it here");
}

std::optional<ClaimRules::Literal> ClaimRules::literal(NodeIndex node) {
  const auto read = syntax::term_of(tree_, node);
  if (!read) {
    diagnostics_.append(read.diagnostics());
    return std::nullopt;
  }
  const Term atom = *read;
  Literal result;
  result.text = atom.to_string();
  if (atom.is_variable()) {
    error(node, "a variable is no formula", "write a literal, such as (true FLUENT)");
    return std::nullopt;
  }
  add_variables(atom, result.variables);
  if (atom.name() == "distinct" && atom.arity() == 2) return result;
  if (!check_relation(node, atom)) return std::nullopt;
  const bool of_role = atom.name() == "legal" || atom.name() == "does" || atom.name() == "goal";
  if (of_role && atom.arity() == 2 && !check_role(node, atom.arguments()[0])) return std::nullopt;
  if (!gather_values(game_, atom, values_)) unfit_.push_back(result.text);
  return result;
}

// Holds of the keys where two fluents of the pattern hold that differ in another variable; without
// keys, in the last one.
std::optional<ClaimRules::Literal> ClaimRules::exclusive(const Claim& claim) {
  const auto read = syntax::term_of(tree_, claim.formula);
  std::vector<std::string> variables;
  if (read) add_variables(*read, variables);
  if (!read || read->is_variable() || variables.empty()) {
    error(claim.formula, "what should be exclusive is a fluent with a variable for its value",
          "write (exclusive (square ?row ?column ?content)): of the last variable there is one "
          "value at most, for each choice of the others; or name these: (exclusive (stands ?piece "
          "?row ?column) ?piece)");
    return std::nullopt;
  }
  std::vector<std::string> keys(variables.begin(), variables.end() - 1);
  if (!claim.keys.empty()) keys.clear();
  for (const NodeIndex node : claim.keys) {
    keys.emplace_back(text_of(node));
    if (std::ranges::find(variables, keys.back()) != variables.end()) continue;
    error(node, fmt::format("{} is no variable of the fluent", keys.back()),
          "name variables of the fluent of which each choice stands in one fluent at most");
    return std::nullopt;
  }
  std::erase_if(variables, [&](const std::string& variable) {
    return std::ranges::find(keys, variable) != keys.end();
  });
  if (variables.empty()) {
    error(claim.formula, "every variable of the fluent is a key, so nothing is said",
          "leave the ones out that may have one value only");
    return std::nullopt;
  }
  std::vector<Term::Symbol> symbols = read->symbols();
  for (Term::Symbol& symbol : symbols) {
    const bool is_value = std::ranges::find(variables, symbol.name) != variables.end();
    if (is_value) symbol.name += "_other";
  }
  gather_values(game_, Term::function("true", {*read}), values_);
  Literal result;
  result.variables = keys;
  result.text = atom_text(new_relation(), keys);
  const std::string other = Term::from_symbols(std::move(symbols)).to_string();
  for (const std::string& variable : variables) {
    text_ += fmt::format("(<= {} (true {}) (true {}) (distinct {} {}_other))\n", result.text,
                         read->to_string(), other, variable, variable);
    places_.push_back(place_);
  }
  return result;
}

}  // namespace orchard::review
