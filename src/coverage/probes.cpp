#include "coverage/probes.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

#include "game/core.hpp"
#include "rules/dependency.hpp"
#include "rules/domains.hpp"

namespace orchard::coverage {
namespace {

using rules::Clause;
using rules::Description;
using rules::Keyword;
using rules::Literal;
using rules::PatternSymbol;
using Variables = absl::flat_hash_set<std::uint32_t>;

class ProbeWriter {
 public:
  explicit ProbeWriter(const Game& game)
      : program_(GameAccess::core(game)->program()),
        description_(program_.description()),
        dependency_(program_.dependency()),
        domains_(description_) {
    // A beginning of names that no name of the rules has.
    while (is_taken()) prefix_ += "_";
  }

  std::vector<ClauseProbe> write() {
    std::vector<ClauseProbe> probes;
    for (std::uint32_t c = 0; c < description_.clauses().size(); ++c) {
      if (is_of_play(description_.clauses()[c])) probes.push_back(write(c));
    }
    return probes;
  }
  std::string text() { return std::move(domain_facts_) + std::move(text_); }

 private:
  bool is_taken() const {
    for (std::size_t s = 0; s < description_.terms().symbol_count(); ++s) {
      const auto symbol = rules::SymbolId{static_cast<std::uint32_t>(s)};
      if (description_.terms().name(symbol).starts_with(prefix_)) return true;
    }
    return false;
  }

  bool is_of_play(const Clause& clause) const {
    switch (description_.relation(clause.head.relation).keyword) {
      case Keyword::role:
      case Keyword::init:
      case Keyword::base:
      case Keyword::input:
        return false;
      case Keyword::next:
      case Keyword::legal:
      case Keyword::goal:
      case Keyword::terminal:
      case Keyword::sees:
        return !clause.body.empty();
      default:
        return dependency_.phase(clause.head.relation) != rules::Phase::constant;
    }
  }

  ClauseProbe write(std::uint32_t number) {
    const Clause& clause = description_.clauses()[number];
    ClauseProbe probe{number, fmt::format("{}holds_{}", prefix_, number), {}};
    rule(probe.relation, clause, clause.body.size(), {});
    for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
      const auto ranges = ranges_without(clause, l);
      if (!ranges) continue;
      probe.conditions.push_back(
          {fmt::format("{}fails_{}_{}", prefix_, number, l), l, text_of(clause.body[l], false)});
      rule(probe.conditions.back().relation, clause, l, *ranges);
    }
    return probe;
  }

  // The body, with one literal turned into its contrary.
  void rule(const std::string& head, const Clause& clause, std::size_t contrary,
            const std::string& ranges) {
    text_ += fmt::format("(<= {}{}", head, ranges);
    for (std::size_t l = 0; l < clause.body.size(); ++l) {
      text_ += " " + text_of(clause.body[l], l == contrary);
    }
    text_ += ")\n";
  }

  std::string text_of(const Literal& literal, bool contrary) const {
    const syntax::NodeIndex node = literal.atom.node;
    const syntax::Tree& tree = description_.tree();
    const std::string atom = tree.canonical_text(node, node + tree[node].size);
    const bool as_written =
        literal.kind == Literal::Kind::positive || literal.kind == Literal::Kind::distinct;
    return as_written != contrary ? atom : fmt::format("(not {})", atom);
  }

  static Variables variables_of(const rules::Atom& atom) {
    Variables result;
    for (const PatternSymbol& symbol : atom.arguments) {
      if (symbol.kind == PatternSymbol::Kind::variable) result.insert(symbol.value);
    }
    return result;
  }

  bool is_constant(const Literal& literal) const {
    return literal.is_comparison() ||
           dependency_.phase(literal.atom.relation) == rules::Phase::constant;
  }

  // What bounds the variables that no other condition binds; nothing if the condition cannot be
  // asked about.
  std::optional<std::string> ranges_without(const Clause& clause, std::uint32_t asked) {
    constexpr std::size_t most_instances = 5'000;
    const Literal& literal = clause.body[asked];
    Variables bound;
    for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
      if (l == asked || clause.body[l].kind != Literal::Kind::positive) continue;
      for (const std::uint32_t variable : variables_of(clause.body[l].atom)) bound.insert(variable);
    }
    Variables open = variables_of(literal.atom);
    absl::erase_if(open, [&](std::uint32_t variable) { return bound.contains(variable); });
    if (open.empty()) return literal_binds_others(clause, asked, bound);
    if (literal.kind != Literal::Kind::positive || is_constant(literal)) return std::nullopt;
    if (description_.relation(literal.atom.relation).keyword == Keyword::does) return std::nullopt;
    std::size_t instances = 1;
    std::string ranges;
    Variables ranged;
    bool fits = true;
    domains_.places().visit(
        description_, literal.atom, [&](rules::PlaceId place, const PatternSymbol& symbol) {
          if (symbol.kind != PatternSymbol::Kind::variable || !open.contains(symbol.value) ||
              !ranged.insert(symbol.value).second) {
            return;
          }
          const auto domain = domain_relation(place);
          fits = fits && domain.has_value();
          if (!domain) return;
          instances *= domains_.domain(place).size();
          ranges += fmt::format(" ({} {})", *domain,
                                description_.rules()[clause.rule].variables[symbol.value]);
        });
    if (!fits || instances > most_instances || ranged.size() < open.size()) return std::nullopt;
    return binds_all(clause, asked, ranged, bound) ? std::optional(ranges) : std::nullopt;
  }

  std::optional<std::string> literal_binds_others(const Clause& clause, std::uint32_t asked,
                                                  const Variables& bound) const {
    return binds_all(clause, asked, {}, bound) ? std::optional(std::string()) : std::nullopt;
  }

  // Whether the negated conditions and comparisons are still safe.
  static bool binds_all(const Clause& clause, std::uint32_t asked, const Variables& ranged,
                        const Variables& bound) {
    for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
      if (l != asked && clause.body[l].kind == Literal::Kind::positive) continue;
      for (const std::uint32_t variable : variables_of(clause.body[l].atom)) {
        if (!bound.contains(variable) && !ranged.contains(variable)) return false;
      }
    }
    return true;
  }

  // A relation of the constants that can stand at a place; none if functions can, too.
  std::optional<std::string> domain_relation(rules::PlaceId place) {
    const auto [known, is_new] = relations_.try_emplace(
        rules::index_of(place), fmt::format("{}domain_{}", prefix_, rules::index_of(place)));
    if (!is_new) return known->second.empty() ? std::nullopt : std::optional(known->second);
    std::vector<std::string> names;
    for (const rules::Domains::Name& name : domains_.domain(place)) {
      if (name.arity > 0 || name == rules::Domains::anything) names.clear();
      if (name.arity > 0 || name == rules::Domains::anything) break;
      names.push_back(description_.terms().name(name.symbol));
    }
    if (names.empty() || names.size() != domains_.domain(place).size()) {
      known->second.clear();
      return std::nullopt;
    }
    std::ranges::sort(names);
    for (const std::string& name : names) {
      domain_facts_ += fmt::format("({} {})\n", known->second, name);
    }
    return known->second;
  }

  const logic::Program& program_;
  const Description& description_;
  const rules::Dependency& dependency_;
  rules::Domains domains_;
  std::string prefix_ = "asked_";
  std::string text_;
  std::string domain_facts_;
  absl::flat_hash_map<std::size_t, std::string> relations_;  // by place
};

}  // namespace

Result<Probes> probes_of(const Game& game) {
  ProbeWriter writer(game);
  std::vector<ClauseProbe> clauses = writer.write();
  auto asked = game_with(game, {syntax::Source("questions about the rules", writer.text())});
  if (!asked) return asked.diagnostics();
  return Probes{*asked, std::move(clauses)};
}

}  // namespace orchard::coverage
