#include "compare/product.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "game/core.hpp"

namespace orchard::compare {
namespace {

using rules::Atom;
using rules::Clause;
using rules::Description;
using rules::Keyword;
using rules::Literal;
using rules::Pattern;
using rules::PatternSymbol;

const Description& description_of(const Game& game) {
  return GameAccess::core(game)->program().description();
}

// Whether a fluent of some rule is a variable, so that its name cannot be changed where it stands.
bool has_open_fluents(const Description& description) {
  const auto is_open = [&](const Atom& atom) {
    switch (description.relation(atom.relation).keyword) {
      case Keyword::true_:
      case Keyword::init:
      case Keyword::next:
      case Keyword::base:
        return atom.arguments.front().kind == PatternSymbol::Kind::variable;
      default:
        return false;
    }
  };
  return std::ranges::any_of(description.clauses(), [&](const Clause& clause) {
    return is_open(clause.head) || std::ranges::any_of(clause.body, [&](const Literal& literal) {
             return !literal.is_comparison() && is_open(literal.atom);
           });
  });
}

// A beginning of names that no name of either has.
std::string free_beginning(std::string wanted, const Description& first,
                           const Description& second) {
  const auto is_taken = [&](const Description& description) {
    for (std::size_t s = 0; s < description.terms().symbol_count(); ++s) {
      const auto symbol = rules::SymbolId{static_cast<std::uint32_t>(s)};
      if (description.terms().name(symbol).starts_with(wanted)) return true;
    }
    return false;
  };
  while (is_taken(first) || is_taken(second)) wanted += "_";
  return wanted;
}

// The rules of one game, written out with other names.
class RulesWriter {
 public:
  struct Names {
    std::string relations{};  // what the names of relations begin with; keywords, too, if not empty
    std::string fluents{};    // … and those of fluents
    std::string wrapper{};    // if not empty: a function around every fluent
    absl::flat_hash_map<std::string, std::string> terms{};  // other names in terms
    std::string does = "does";
    std::string sees{};  // what stands for `sees`, which cannot be a condition
  };
  RulesWriter(const Description& description, Names names)
      : description_(description), names_(std::move(names)) {}

  std::string rules() {
    for (const Clause& clause : description_.clauses()) {
      if (clause.body.empty()) {
        write(clause.head);
      } else {
        text_ += "(<= ";
        write(clause.head);
        for (const Literal& literal : clause.body) {
          text_ += " ";
          write(literal);
        }
        text_ += ")";
      }
      text_ += "\n";
    }
    return std::move(text_);
  }
  // A name in terms as it is written.
  std::string written(const std::string& own) const {
    const auto other = names_.terms.find(own);
    return other == names_.terms.end() ? own : other->second;
  }

 private:
  std::string term_name(const PatternSymbol& symbol) const {
    if (symbol.kind == PatternSymbol::Kind::variable) return fmt::format("?v{}", symbol.value);
    return written(description_.terms().name(symbol.symbol()));
  }

  // Terms one behind the other. The first may have a prefix; the last may keep its name.
  void write(const Pattern& pattern, std::string_view prefix = {}, bool last_as_is = false) {
    std::vector<std::uint32_t> open;  // arguments still to come, of the functions around
    for (std::size_t at = 0; at < pattern.size(); ++at) {
      const PatternSymbol& symbol = pattern[at];
      const bool as_is = last_as_is && at + 1 == pattern.size() && symbol.arity == 0 &&
                         symbol.kind == PatternSymbol::Kind::constant;
      if (at > 0) text_ += " ";
      if (symbol.arity > 0) text_ += "(";
      if (at == 0) text_ += prefix;
      text_ += as_is ? description_.terms().name(symbol.symbol()) : term_name(symbol);
      if (symbol.arity > 0) {
        open.push_back(symbol.arity);
        continue;
      }
      while (!open.empty() && --open.back() == 0) {
        text_ += ")";
        open.pop_back();
      }
    }
  }

  void write(const Atom& atom) {
    const rules::Relation& relation = description_.relation(atom.relation);
    const std::string& own = description_.terms().name(relation.name);
    bool is_fluent = false;
    std::string name = names_.relations + own;
    switch (relation.keyword) {
      case Keyword::true_:
      case Keyword::init:
      case Keyword::next:
      case Keyword::base:
        is_fluent = true;
        name = own;
        break;
      case Keyword::does:
        name = names_.does;
        break;
      case Keyword::sees:
        name = names_.sees;
        break;
      default:
        break;
    }
    if (atom.arguments.empty()) {
      text_ += name;
      return;
    }
    text_ += "(" + name + " ";
    if (is_fluent && !names_.wrapper.empty()) {
      text_ += "(" + names_.wrapper + " ";
      write(atom.arguments);
      text_ += ")";
    } else {
      write(atom.arguments, is_fluent ? std::string_view(names_.fluents) : std::string_view(),
            relation.keyword == Keyword::goal);
    }
    text_ += ")";
  }

  void write(const Literal& literal) {
    switch (literal.kind) {
      case Literal::Kind::positive:
        write(literal.atom);
        return;
      case Literal::Kind::negative:
        text_ += "(not ";
        write(literal.atom);
        break;
      case Literal::Kind::distinct:
        text_ += "(distinct ";
        write(literal.atom.arguments);
        break;
      case Literal::Kind::equal:
        text_ += "(not (distinct ";
        write(literal.atom.arguments);
        text_ += ")";
        break;
    }
    text_ += ")";
  }

  const Description& description_;
  Names names_;
  std::string text_;
};

// Rules that say what is not the same. A keyword of the second has its prefix.
class DifferenceRules {
 public:
  DifferenceRules(const Description& first, const Game& second, const Renaming& renaming,
                  const std::string& prefix)
      : first_(first),
        second_game_(second),
        second_(description_of(second)),
        renaming_(renaming),
        prefix_(prefix) {}

  std::string text(const RulesWriter& second_rules, const Renaming& in_words_of_first) {
    const std::string ends = prefix_ + "terminal";
    const bool first_ends = first_.uses(Keyword::terminal);
    const bool second_ends = second_.uses(Keyword::terminal);
    if (first_ends) add(second_ends ? fmt::format("terminal (not {})", ends) : "terminal");
    if (second_ends) add(first_ends ? fmt::format("(not terminal) {}", ends) : ends);
    const std::string goes_on = first_ends ? "(not terminal) " : "";
    std::string second_legal = prefix_ + "legal";
    if (!renaming_.moves.empty()) {
      second_legal += "_as_first";
      translate_moves(second_rules, in_words_of_first);
      add(fmt::format("{}({}legal ?role ?move) (not ({}move_known ?role ?move))", goes_on, prefix_,
                      prefix_));
    }
    add_both_ways(goes_on, "legal", second_legal, first_.uses(Keyword::legal),
                  second_.uses(Keyword::legal));
    add_both_ways(first_ends ? "terminal " : "", "goal", prefix_ + "goal",
                  first_ends && first_.uses(Keyword::goal),
                  first_ends && second_.uses(Keyword::goal));
    if (first_.uses(Keyword::sees)) {
      // What is told belongs to the moves; it is remembered, so that positions show it.
      const std::string otherwise = prefix_ + "told_otherwise";
      rule(fmt::format("(next {})", otherwise),
           fmt::format("({0}sees_first ?role ?told) (not ({0}sees ?role ?told))", prefix_));
      rule(fmt::format("(next {})", otherwise),
           fmt::format("({0}sees ?role ?told) (not ({0}sees_first ?role ?told))", prefix_));
      add(fmt::format("(true {})", otherwise));
    }
    return std::move(text_);
  }

 private:
  void rule(const std::string& head, const std::string& body) {
    text_ += fmt::format("(<= {} {})\n", head, body);
  }
  void add(const std::string& body) { rule(prefix_ + "different", body); }

  void add_both_ways(const std::string& where, const std::string& own, const std::string& other,
                     bool has_own, bool has_other) {
    const std::string of_first = fmt::format("({} ?role ?what)", own);
    const std::string of_second = fmt::format("({} ?role ?what)", other);
    if (has_own) add(where + of_first + (has_other ? fmt::format(" (not {})", of_second) : ""));
    if (has_other) add(where + of_second + (has_own ? fmt::format(" (not {})", of_first) : ""));
  }

  // The second's `does` and `legal` in both ways of writing moves.
  void translate_moves(const RulesWriter& second_rules, const Renaming& in_words_of_first) {
    const auto pair = [&](const std::string& move, const std::string& of_second) {
      rule(fmt::format("({}does ?role {})", prefix_, of_second),
           fmt::format("(does ?role {})", move));
      rule(fmt::format("({}legal_as_first ?role {})", prefix_, move),
           fmt::format("({}legal ?role {})", prefix_, of_second));
      rule(fmt::format("({}move_known ?role {})", prefix_, of_second),
           fmt::format("({}legal ?role {})", prefix_, of_second));
    };
    absl::flat_hash_set<std::pair<std::string, std::uint32_t>> written;
    for (const auto& [move, of_second] : in_words_of_first.moves) {
      pair(move.to_string(), of_second.to_string());
      written.emplace(of_second.name(), static_cast<std::uint32_t>(of_second.arity()));
    }
    for (const auto& [name, arity] : kinds_of_moves(second_rules)) {
      if (written.contains({name, arity})) continue;
      std::string move = name;
      for (std::uint32_t a = 0; a < arity; ++a) move += fmt::format(" ?argument{}", a);
      if (arity > 0) move = "(" + move + ")";
      pair(move, move);
    }
  }

  // The moves of the second that its rules foresee, by name and number of arguments; where it has
  // no circuit, those that rules write.
  std::set<std::pair<std::string, std::uint32_t>> kinds_of_moves(const RulesWriter& rules) const {
    std::set<std::pair<std::string, std::uint32_t>> kinds;
    const rules::TermTable& terms = second_.terms();
    if (const LaneGame* const lanes = GameAccess::core(second_game_)->lanes()) {
      for (const auto& of_role : lanes->ground().moves()) {
        for (const ground::GroundProgram::Move& move : of_role) {
          const rules::TermTable::Entry& entry = terms[move.term];
          kinds.emplace(rules.written(terms.name(entry.symbol)), entry.arity);
        }
      }
      return kinds;
    }
    for (const Clause& clause : second_.clauses()) {
      if (second_.relation(clause.head.relation).keyword != Keyword::legal) continue;
      const PatternSymbol& move = clause.head.arguments[clause.head.arguments.front().size];
      if (move.kind == PatternSymbol::Kind::variable) continue;
      kinds.emplace(rules.written(terms.name(move.symbol())), move.arity);
    }
    return kinds;
  }

  const Description& first_;
  const Game& second_game_;
  const Description& second_;
  const Renaming& renaming_;
  std::string prefix_;
  std::string text_;
};

}  // namespace

Result<Product> product_of(const Game& first, const Game& second, const Renaming& renaming) {
  const Description& ours = description_of(first);
  const Description& theirs = description_of(second);
  const std::string prefix = free_beginning("second_", ours, theirs);
  RulesWriter::Names own;
  if (has_open_fluents(ours)) own.wrapper = free_beginning("first_fluent", ours, theirs);
  own.sees = prefix + "sees_first";
  RulesWriter::Names other;
  other.relations = prefix;
  other.sees = prefix + "sees";
  other.does = renaming.moves.empty() ? "does" : prefix + "does";
  if (has_open_fluents(theirs)) {
    other.wrapper = prefix + "fluent";
  } else {
    other.fluents = prefix;
  }
  for (const auto& [of_first, of_second] : renaming.names) other.terms[of_second] = of_first;
  for (const auto& [of_first, of_second] : renaming.names) {
    // The second calls something else by this name.
    if (!other.terms.contains(of_first)) other.terms[of_first] = prefix + of_first;
  }
  Renaming in_words_of_first;
  const auto renamed = [&](const Term& term) {
    std::vector<Term::Symbol> symbols = term.symbols();
    for (Term::Symbol& symbol : symbols) {
      const auto known = other.terms.find(symbol.name);
      if (known != other.terms.end()) symbol.name = known->second;
    }
    return Term::from_symbols(std::move(symbols));
  };
  for (const auto& [of_first, of_second] : renaming.moves) {
    in_words_of_first.moves.emplace_back(of_first, renamed(of_second));
  }
  RulesWriter first_rules(ours, std::move(own));
  RulesWriter second_rules(theirs, std::move(other));
  DifferenceRules differences(ours, second, renaming, prefix);
  const std::string text = first_rules.rules() + second_rules.rules() +
                           differences.text(second_rules, in_words_of_first);
  Diagnostics faults;
  auto both = rules::Description::build(
      syntax::Source(fmt::format("{} and {}", first.name(), second.name()), text), {}, faults);
  if (!both) return faults;
  std::vector<rules::RelationId> asked;
  if (const auto different = both->find(prefix + "different", 0)) asked.push_back(*different);
  GameLimits limits = GameAccess::core(first)->limits();
  limits.reached.reset();  // what the first can reach says nothing of both
  auto game = game_of(std::move(both), limits, {}, std::move(asked));
  if (!game) return game.diagnostics();
  return Product{*game, prefix + "different"};
}

}  // namespace orchard::compare
