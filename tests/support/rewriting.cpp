#include "support/rewriting.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>
#include <span>

#include "game/core.hpp"
#include "orchard/game.hpp"
#include "support/board_styles.hpp"
#include "support/rule_terms.hpp"

namespace orchard::testing {
namespace {

// Names of letters alone, for a number at the end of a name would order it, and so different that
// none looks like a slip of another.
std::string fresh_name(std::size_t number) {
  constexpr std::array syllables = {"ba", "co", "du", "fe", "gi", "ha", "jo", "ku", "le", "mi",
                                    "na", "po", "qu", "re", "si", "ta", "vo", "wu", "xe", "zi"};
  std::size_t rest = (number * 4793 + 1234) % 8000;  // 4793 and 8000 have no common factor
  std::string name;
  for (int syllable = 0; syllable < 3; ++syllable, rest /= syllables.size()) {
    name += syllables[rest % syllables.size()];
  }
  return name;
}

std::string other_names(const std::string& text, std::map<std::string, std::string>& names) {
  return text_of(mapped(rules_of(text), [&](const std::string& name, std::vector<Term> arguments) {
    if (keywords.contains(name) || is_number(name)) return made(name, arguments);
    const std::string variable = name.front() == '?' ? "?" : "";
    const auto [known, is_new] = names.try_emplace(name, variable + fresh_name(names.size()));
    return made(known->second, arguments);
  }));
}

std::string other_names(const std::string& text) {
  std::map<std::string, std::string> names;
  return other_names(text, names);
}

std::optional<std::string> names_of_other_names(const std::string& text) {
  std::map<std::string, std::string> names;
  other_names(text, names);
  std::string result;
  for (const auto& [name, other] : names) {
    if (name.front() != '?') result += fmt::format("(name {} {})\n", name, other);
  }
  return result;
}

// Numbers but those that goals give; nothing if goals are worked out.
std::string numbers_replaced(const std::string& text,
                             const std::function<Term(const std::string&)>& number) {
  Rules rules = rules_of(text);
  const auto goals_are_numbers = [&](const Rule& rule) {
    return rule.head.name() != "goal" || !rule.head.arguments()[1].is_variable();
  };
  if (!std::ranges::all_of(rules, goals_are_numbers)) return {};
  const auto change = [&](const std::string& name, std::vector<Term> arguments) {
    return is_number(name) ? number(name) : made(name, arguments);
  };
  for (Rule& rule : rules) {
    if (rule.head.name() == "goal") {
      rule.head = Term::function(
          "goal", {mapped(rule.head.arguments()[0], change), rule.head.arguments()[1]});
    } else {
      rule.head = mapped(rule.head, change);
    }
    for (Term& condition : rule.body) {
      if (condition.name() == "goal") return {};
      condition = mapped(condition, change);
    }
  }
  return text_of(rules);
}

std::string numbers_as_names(const std::string& text) {
  return numbers_replaced(text,
                          [](const std::string& name) { return Term::constant("number_" + name); });
}

std::optional<std::string> names_of_numbers(const std::string& text) {
  const std::string rewritten = numbers_as_names(text);
  std::set<std::string> numbers;
  mapped(rules_of(text), [&](const std::string& name, std::vector<Term> arguments) {
    if (is_number(name)) numbers.insert(name);
    return made(name, arguments);
  });
  std::string result;
  for (const std::string& number : numbers) {
    if (rewritten.find("number_" + number) != std::string::npos) {
      result += fmt::format("(name {0} number_{0})\n", number);
    }
  }
  return result;
}

// (further (further nought)) for 2, where none is large.
std::string numbers_nested(const std::string& text) {
  constexpr std::int64_t largest = 9;
  bool small = true;
  const std::string rewritten = numbers_replaced(text, [&](const std::string& name) {
    const std::int64_t number = *Term::constant(name).number();
    small = small && number >= 0 && number <= largest;
    Term nested = Term::constant("nought");
    for (std::int64_t n = 0; small && n < number; ++n) nested = Term::function("further", {nested});
    return nested;
  });
  return small ? rewritten : std::string();
}

std::string arguments_turned(const std::string& text) {
  return text_of(mapped(rules_of(text), [](const std::string& name, std::vector<Term> arguments) {
    if (!keywords.contains(name)) std::ranges::reverse(arguments);
    return made(name, arguments);
  }));
}

// The moves that have arguments to turn; nothing if one is a variable or has a function within.
std::optional<std::string> moves_turned(const std::string& text) {
  std::set<std::pair<std::string, std::size_t>> moves;
  for (const Rule& rule : rules_of(text)) {
    if (rule.head.name() != "legal") continue;
    const Term move = rule.head.arguments()[1];
    if (move.is_variable()) return std::nullopt;
    for (const Term& argument : move.arguments()) {
      if (argument.arity() > 0) return std::nullopt;
    }
    if (move.arity() > 1) moves.emplace(move.name(), move.arity());
  }
  std::string result;
  for (const auto& [name, arity] : moves) {
    std::string own;
    std::string turned;
    for (std::size_t a = 0; a < arity; ++a) {
      own += fmt::format(" ?a{}", a);
      turned += fmt::format(" ?a{}", arity - 1 - a);
    }
    result += fmt::format("(move ({0}{1}) ({0}{2}))\n", name, own, turned);
  }
  return result;
}

std::optional<std::string> same_names(const std::string&) {
  return std::string();
}
std::optional<std::string> no_names(const std::string&) {
  return std::nullopt;
}

// The roles keep their order: it is that of the joint moves.
std::string in_reverse(const std::string& text) {
  Rules rules = rules_of(text);
  std::ranges::reverse(rules);
  std::ranges::stable_partition(rules, [](const Rule& rule) { return rule.head.name() != "role"; });
  const auto roles = std::ranges::find(
      rules, std::string("role"), [](const Rule& rule) { return std::string(rule.head.name()); });
  std::reverse(roles, rules.end());
  for (Rule& rule : rules) std::ranges::reverse(rule.body);
  return text_of(rules);
}

std::string joined_by_or(const std::string& text) {
  Rules result;
  for (const Rule& rule : rules_of(text)) {
    const auto same = std::ranges::find_if(result, [&](const Rule& other) {
      return other.head == rule.head && !rule.body.empty() && !other.body.empty();
    });
    if (same == result.end()) {
      result.push_back(rule);
      continue;
    }
    const auto all = [](const std::vector<Term>& body) {
      return body.size() == 1 ? body.front() : Term::function("and", body);
    };
    same->body = {Term::function("or", {all(same->body), all(rule.body)})};
  }
  return text_of(result);
}

std::string taken_apart(const std::string& text) {
  Rules open = rules_of(text);
  std::ranges::reverse(open);
  Rules result;
  while (!open.empty()) {
    Rule rule = std::move(open.back());
    open.pop_back();
    const auto choice = std::ranges::find_if(rule.body, [](const Term& condition) {
      return condition.name() == "or" || condition.name() == "and";
    });
    if (choice == rule.body.end()) {
      result.push_back(std::move(rule));
      continue;
    }
    const Term parts = *choice;
    rule.body.erase(choice);
    if (parts.name() == "and") {
      for (const Term& part : parts.arguments()) rule.body.push_back(part);
      open.push_back(std::move(rule));
      continue;
    }
    for (const Term& part : parts.arguments()) {
      open.push_back(rule);
      open.back().body.push_back(part);
    }
  }
  return text_of(result);
}

bool mentions(const Term& term, const std::string& relation, std::size_t arity) {
  if (term.name() == relation && term.arity() == arity) return true;
  if (!keywords.contains(term.name())) return false;
  return std::ranges::any_of(term.arguments(),
                             [&](const Term& part) { return mentions(part, relation, arity); });
}

// Helpers of one rule whose arguments are different variables and which nobody asks for negated.
std::optional<std::size_t> foldable(const Rules& rules) {
  for (std::size_t r = 0; r < rules.size(); ++r) {
    const Rule& rule = rules[r];
    const std::vector<Term> arguments = rule.head.arguments();
    const std::set<Term> different(arguments.begin(), arguments.end());
    if (keywords.contains(rule.head.name()) || rule.body.empty() ||
        different.size() != arguments.size() ||
        !std::ranges::all_of(arguments, &Term::is_variable)) {
      continue;
    }
    bool fits = true;
    for (std::size_t other = 0; other < rules.size() && fits; ++other) {
      fits = other == r || rules[other].head.name() != rule.head.name();
      for (const Term& condition : rules[other].body) {
        const bool plain = condition.name() == rule.head.name();
        const bool inside = mentions(condition, rule.head.name(), rule.head.arity());
        fits = fits && !(plain && other == r) && (plain || !inside);
      }
    }
    if (fits) return r;
  }
  return std::nullopt;
}

std::string helpers_folded(const std::string& text) {
  Rules rules = rules_of(text);
  int fresh = 0;
  for (auto helper = foldable(rules); helper && rules.size() > 1; helper = foldable(rules)) {
    const Rule folded = rules[*helper];
    rules.erase(rules.begin() + static_cast<std::ptrdiff_t>(*helper));
    for (Rule& rule : rules) {
      std::vector<Term> body;
      for (const Term& condition : rule.body) {
        if (condition.name() != folded.head.name()) {
          body.push_back(condition);
          continue;
        }
        std::map<std::string, Term> values;
        for (std::size_t a = 0; a < condition.arity(); ++a) {
          values.emplace(folded.head.arguments()[a].name(), condition.arguments()[a]);
        }
        const std::string suffix = fmt::format("_{}", ++fresh);
        for (const Term& part : folded.body) {
          body.push_back(mapped(part, [&](const std::string& name, std::vector<Term> arguments) {
            if (name.front() != '?') return made(name, arguments);
            return values.try_emplace(name, Term::constant(name + suffix)).first->second;
          }));
        }
      }
      rule.body = std::move(body);
    }
  }
  return text_of(rules);
}

bool mentions(const Term& term, const Term& variable) {
  return term == variable || std::ranges::any_of(term.arguments(), [&](const Term& part) {
           return mentions(part, variable);
         });
}

// The first two conditions of long rules as helper relations over their variables. Those that the
// rest of the rule does not have are marked where the author marks such ones.
std::string helpers_split(const std::string& text) {
  const auto is_plain = [](const Term& condition) {
    return condition.name() != "not" && condition.name() != "or" && condition.name() != "and" &&
           condition.name() != "distinct";
  };
  const bool marks = text.find("?_") != std::string::npos;
  Rules result;
  int parts = 0;
  for (Rule rule : rules_of(text)) {
    constexpr std::size_t is_long = 3;
    if (rule.body.size() >= is_long && is_plain(rule.body[0]) && is_plain(rule.body[1])) {
      std::vector<Term> variables;
      const auto collect = [&](const std::string& name, std::vector<Term> arguments) {
        const Term term = made(name, arguments);
        if (term.is_variable() && std::ranges::find(variables, term) == variables.end()) {
          variables.push_back(term);
        }
        return term;
      };
      mapped(rule.body[0], collect);
      mapped(rule.body[1], collect);
      const std::string name = "both_of_" + fresh_name(static_cast<std::size_t>(++parts));
      result.push_back({made(name, variables), {rule.body[0], rule.body[1]}});
      rule.body.erase(rule.body.begin());
      for (Term& variable : variables) {
        const auto rest = std::span(rule.body).subspan(1);
        const bool used =
            mentions(rule.head, variable) || std::ranges::any_of(rest, [&](const Term& condition) {
              return mentions(condition, variable);
            });
        const bool marked = variable.name().starts_with("?_");
        if (marks && !used && !marked) {
          variable = Term::constant("?_" + std::string(variable.name().substr(1)));
        }
      }
      rule.body.front() = made(name, variables);
    }
    result.push_back(std::move(rule));
  }
  return parts == 0 ? std::string() : text_of(result);
}

// A fluent that is there while it is one role's turn, and not while it is the other's.
std::string turn_as_toggle(const std::string& text) {
  const Rules rules = rules_of(text);
  const auto turn = turn_fluent(rules);
  if (!turn) return {};
  const std::string turn_of = "turn_of_whom";
  const Term flag = Term::constant(turn->name + "_flag");
  const auto read = [&](std::vector<Term> conditions) {
    for (Term& condition : conditions) {
      condition = with_fluents(condition, [&](const Term& fluent) -> std::optional<Term> {
        if (!turn->is(fluent)) return std::nullopt;
        return Term::function(turn_of, {fluent.arguments()[0]});
      });
    }
    return conditions;
  };
  Rules result;
  for (const Rule& rule : rules) {
    const std::string& head = std::string(rule.head.name());
    const bool makes =
        (head == "init" || head == "next" || head == "base") && turn->is(rule.head.arguments()[0]);
    if (!makes) {
      result.push_back({rule.head, read(rule.body)});
      continue;
    }
    const Term who = rule.head.arguments()[0].arguments()[0];
    if (who == turn->second) continue;  // not said: then it is the second one's
    const Rule of_first = who.is_variable() ? substituted(rule, who, turn->first) : rule;
    result.push_back({Term::function(head, {flag}), read(of_first.body)});
  }
  const Term is_set = Term::function("true", {flag});
  result.push_back({Term::function(turn_of, {turn->first}), {is_set}});
  result.push_back({Term::function(turn_of, {turn->second}), {Term::function("not", {is_set})}});
  return text_of(result);
}

std::string facts_spelt_out(const std::string& text) {
  const Game game = Game::from_text(text).value();
  const logic::Program& program = GameAccess::core(game)->program();
  const auto constant = [&](const Term& head) {
    const auto relation =
        program.description().find(head.name(), static_cast<std::uint32_t>(head.arity()));
    return !keywords.contains(head.name()) && relation &&
           program.tables()[index_of(*relation)].phase == rules::Phase::constant;
  };
  Rules result;
  std::set<std::string> told;
  for (const Rule& rule : rules_of(text)) {
    if (!constant(rule.head)) {
      result.push_back(rule);
      continue;
    }
    if (!told.insert(fmt::format("{}/{}", rule.head.name(), rule.head.arity())).second) continue;
    const auto relation = *program.description().find(
        rule.head.name(), static_cast<std::uint32_t>(rule.head.arity()));
    const logic::Table& table = program.prepared_table(program.table(relation));
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      std::vector<Term> arguments;
      for (std::uint32_t a = 0; a < table.arity(); ++a) {
        arguments.push_back(program.terms().term(table.row(row)[a]));
      }
      result.push_back({made(rule.head.name(), arguments), {}});
    }
  }
  return text_of(result);
}

}  // namespace

const std::vector<Rewriting>& rewritings() {
  static const std::vector<Rewriting> all = {
      {"other names", [](const std::string& text) { return other_names(text); },
       names_of_other_names},
      {"numbers as names", numbers_as_names, names_of_numbers},
      {"arguments turned", arguments_turned, moves_turned},
      {"in reverse", in_reverse, same_names},
      {"joined by or", joined_by_or, same_names},
      {"taken apart", taken_apart, same_names},
      {"helpers folded", helpers_folded, same_names},
      {"facts spelt out", facts_spelt_out, same_names},
      {"numbers nested", numbers_nested, no_names},
      {"helpers split", helpers_split, same_names},
      {"turn as toggle", turn_as_toggle, same_names},
      {"turn by plies", turn_by_plies, same_names},
      {"bare not told", bare_not_told, same_names},
      {"places as index", places_as_index, same_names},
      {"contents apart", contents_as_fluents, same_names}};
  return all;
}

}  // namespace orchard::testing
