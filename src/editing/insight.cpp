#include "editing/insight.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <map>
#include <set>

#include "base/interruption.hpp"
#include "editing/relation_rows.hpp"
#include "review/claims/claim_rules.hpp"
#include "rules/keywords.hpp"
#include "syntax/directives.hpp"

namespace orchard::editing {

namespace {

constexpr std::size_t most_listed = 12;  // names or facts in a sentence
constexpr double patience = 0.5;         // seconds
constexpr std::string_view too_much = "What holds at the start takes too long to work out here.";

struct Meaning {
  std::string_view word;
  std::string_view shape;  // empty: a table of the language has it
  std::string_view meaning;
};
constexpr std::array meanings{
    Meaning{"role", "", "Who plays. Facts of roles give their order; `random` is chance."},
    Meaning{"init", "", "The fluent holds at the start."},
    Meaning{"true", "", "The fluent holds in the position."},
    Meaning{"does", "", "The role makes this move now."},
    Meaning{"next", "",
            "The fluent holds in the position that follows. What no rule says does not hold."},
    Meaning{"legal", "", "The role can make this move."},
    Meaning{"goal", "", "What the role gets here, from 0 to 100."},
    Meaning{"terminal", "", "The game is over here."},
    Meaning{"base", "", "The fluent can hold in some position."},
    Meaning{"input", "", "The role can make this move in some position."},
    Meaning{"sees", "", "The role perceives this when the move is made."},
    Meaning{"<=", "(<= HEAD CONDITION…)", "The head holds wherever all conditions hold."},
    Meaning{"not", "(not CONDITION)", "Holds where the condition does not."},
    Meaning{"or", "(or CONDITION…)", "Holds where one of the conditions does."},
    Meaning{"and", "(and FORMULA…)", "Holds where all formulas do; in claims."},
    Meaning{"distinct", "(distinct TERM TERM)", "The two terms are not the same."},
    Meaning{"#let", "", "Gives a size its number; --set NAME=NUMBER gives it another."},
    Meaning{"#for", "", "Writes the forms once for each number from FROM to TO."},
    Meaning{"#+", "", "The sum."},
    Meaning{"#-", "", "The difference."},
    Meaning{"#*", "", "The product."},
    Meaning{"#div", "", "The quotient, rounded down."},
    Meaning{"#mod", "", "The remainder, never negative."},
    Meaning{"#include", "", "The forms of a file in the same folder or below."},
    Meaning{"#count", "", "How many of the conditions hold, wherever WHERE does."},
    Meaning{"claim", "(claim \"NAME\" FORMULA)",
            "Something that is to be shown of every game that can be played."},
    Meaning{"always", "", "The formula holds in every position."},
    Meaning{"never", "", "The formula holds in no position."},
    Meaning{"possible", "", "The formula holds in some position."},
    Meaning{"eventually", "", "On every line of play the formula holds at some time."},
    Meaning{"until", "", "The first formula holds until the second does."},
    Meaning{"can-force", "", "The roles can bring it about, whatever the others do."},
    Meaning{"can-force-almost-surely", "", "The roles can bring it about with probability one."},
    Meaning{"exclusive", "", "At most one such fluent holds for each value of the keys."},
    Meaning{"implies", "(implies FORMULA FORMULA)",
            "Where the first formula holds, the second does."},
    Meaning{"exists", "(exists ?x RANGE FORMULA)", "The formula holds for some ?x of the range."},
    Meaning{"forall", "(forall ?x RANGE FORMULA)", "The formula holds for every ?x of the range."},
    Meaning{"case", "(case \"NAME\" PART…)",
            "A position or line of play, and what is expected there."},
    Meaning{"start", "(start)", "The case begins at the start of the game."},
    Meaning{"position", "(position FLUENT…)", "The case begins at this position."},
    Meaning{"moves", "(moves PLY…)", "What is played; each role that can choose says its move."},
    Meaning{"expect", "(expect LITERAL…)", "Each of these holds here."},
    Meaning{"legal-moves", "(legal-moves ROLE MOVE…)", "These are all legal moves of the role."},
    Meaning{"refused", "(refused ROLE MOVE)", "The move is not legal."},
    Meaning{"best", "(best ROLE MOVE…)", "These are all best moves of the role."},
    Meaning{"value", "(value ROLE NUMBER)", "What the role gets under best play."},
    Meaning{"wins-within", "(wins-within ROLE PLIES)",
            "The role can force its win within so many plies."},
};

const Meaning* find_meaning(std::string_view word) {
  const auto found = std::ranges::find(meanings, word, &Meaning::word);
  return found == meanings.end() ? nullptr : &*found;
}

std::string some_of(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < std::min(names.size(), most_listed); ++i) {
    text += (i == 0 ? "" : ", ") + names[i];
  }
  if (names.size() > most_listed) text += fmt::format(", … ({} in all)", names.size());
  return text;
}

std::string counted(std::size_t number, std::string_view one, std::string_view many) {
  return number == 1 ? fmt::format("1 {}", one) : fmt::format("{} {}", number, many);
}

class InsightWriter {
 public:
  InsightWriter(const Names& text, const Name& name, const Names& rules, const Reading* reading)
      : text_(text), name_(name), rules_(rules), reading_(reading) {}

  Insight write();

 private:
  void write_comment();
  void write_uses();
  void write_arguments(ArgumentDomain::Kind kind);
  void write_variable();
  void write_start();
  void write_what_holds();
  std::string shape() const;
  std::vector<std::string> arguments() const;
  std::vector<const Name*> made_in() const;

  const Names& text_;
  const Name& name_;
  const Names& rules_;
  const Reading* reading_;
  Insight result_;
};

// Where it is concluded, or, if nowhere, where it stands.
std::vector<const Name*> InsightWriter::made_in() const {
  std::vector<const Name*> result;
  for (const Name& one : rules_.all()) {
    if (one.makes && same_thing(one, name_)) result.push_back(&one);
  }
  return result;
}

// As its first rule writes them.
std::vector<std::string> InsightWriter::arguments() const {
  const std::vector<const Name*> made = made_in();
  std::vector<std::string> result(name_.arity, "…");
  if (!made.empty()) {
    const auto owner = static_cast<std::uint32_t>(made.front() - rules_.all().data());
    for (const Name& one : rules_.all()) {
      if (one.owner != owner || one.argument == 0 || one.argument > result.size()) continue;
      const bool is_term_with_arguments = one.arity > 0;
      result[one.argument - 1] = is_term_with_arguments ? "(" + one.name + " …)" : one.name;
    }
  }
  return result;
}

std::string InsightWriter::shape() const {
  if (name_.arity == 0) return name_.name;
  std::string text = "(" + name_.name;
  for (const std::string& argument : arguments()) text += " " + argument;
  return text + ")";
}

void InsightWriter::write_comment() {
  const std::vector<const Name*> made = made_in();
  for (const Name* one : made) {
    std::string comment = rules_.comment_above(one->form);
    if (comment.empty()) continue;
    std::ranges::replace(comment, '\n', ' ');
    result_.lines.push_back(std::move(comment));
    return;
  }
}

void InsightWriter::write_uses() {
  std::set<std::uint32_t> making;
  std::size_t uses = 0;
  for (const Name& one : rules_.all()) {
    if (!same_thing(one, name_)) continue;
    if (one.makes) {
      making.insert(one.form);
    } else {
      ++uses;
    }
  }
  std::string line;
  if (name_.sort == Sort::relation) {
    line = fmt::format("Concluded in {}, asked for in {}.", counted(making.size(), "form", "forms"),
                       counted(uses, "place", "places"));
  } else if (name_.sort == Sort::fluent || name_.sort == Sort::move) {
    line = fmt::format("Made in {}, and stands in {}.", counted(making.size(), "form", "forms"),
                       counted(uses, "other place", "other places"));
  } else {
    line = fmt::format("Stands in {}.", counted(uses + making.size(), "place", "places"));
  }
  result_.lines.push_back(std::move(line));
}

void InsightWriter::write_arguments(ArgumentDomain::Kind kind) {
  if (reading_ == nullptr) return;
  const std::vector<std::string> written = arguments();
  for (const ArgumentDomain& domain : reading_->domains()) {
    if (domain.kind != kind || domain.name != name_.name || domain.arity != name_.arity) continue;
    // By the name of its variable, where the first rule has one.
    std::string which = domain.argument <= written.size() ? written[domain.argument - 1] : "";
    if (!which.starts_with('?')) which = fmt::format("Argument {}", domain.argument);
    const std::string values =
        domain.values.empty() ? "nothing can stand here" : some_of(domain.values);
    result_.lines.push_back(fmt::format("{}: {}", which, values));
  }
}

// What a variable can be in its rule: what can stand everywhere where it stands as an argument of a
// condition.
void InsightWriter::write_variable() {
  if (reading_ == nullptr || text_.paper() != Paper::rules) return;
  std::optional<std::vector<std::string>> values;
  for (const Name& one : text_.all()) {
    if (!same_thing(one, name_) || one.owner == Name::no_owner) continue;
    const Name& owner = text_.all()[one.owner];
    for (const ArgumentDomain& domain : reading_->domains()) {
      const bool fits =
          domain.name == owner.name && domain.arity == owner.arity &&
          domain.argument == one.argument &&
          (domain.kind == ArgumentDomain::Kind::relation) ==
              (owner.sort == Sort::relation || owner.sort == Sort::keyword) &&
          (domain.kind == ArgumentDomain::Kind::fluent) == (owner.sort == Sort::fluent) &&
          (domain.kind == ArgumentDomain::Kind::move) == (owner.sort == Sort::move);
      if (!fits) continue;
      if (!values) {
        values = domain.values;
      } else {
        std::erase_if(*values, [&](const std::string& value) {
          return std::ranges::find(domain.values, value) == domain.values.end();
        });
      }
    }
  }
  if (values) {
    result_.lines.push_back(values->empty() ? "No value fits all places where it stands."
                                            : "Can be: " + some_of(*values));
  }
}

void InsightWriter::write_start() {
  if (reading_ == nullptr || !reading_->game) return;
  // Whoever points at a name does not wait long for what rules make of it.
  Budget budget;
  budget.seconds = patience;
  const Interruption interruption(budget);
  try {
    write_what_holds();
  } catch (const Interrupted& interrupted) {
    if (interrupted.ending != Ending::time) throw;
    result_.lines.emplace_back(too_much);
  }
}

void InsightWriter::write_what_holds() {
  const Game& game = *reading_->game;
  const Position start = game.initial();
  std::vector<std::string> facts;
  bool all = true;
  if (name_.sort == Sort::relation) {
    constexpr std::size_t most = 10'000;
    const auto rows = rows_of(game, start, name_.name, name_.arity, most);
    if (!rows) {
      result_.lines.emplace_back(too_much);
      return;
    }
    all = rows->all;
    for (const std::vector<Term>& row : rows->rows) {
      std::string fact = name_.arity == 0 ? name_.name : "(" + name_.name;
      for (const Term& term : row) fact += " " + term.to_string();
      facts.push_back(name_.arity == 0 ? fact : fact + ")");
    }
  } else if (name_.sort == Sort::fluent) {
    for (const Term& fluent : start.fluents()) {
      if (fluent.name() == name_.name && fluent.arity() == name_.arity) {
        facts.push_back(fluent.to_string());
      }
    }
  } else {
    for (const Role& role : game.roles()) {
      for (const Move& move : game.legal(start, role)) {
        const Term term = move.term();
        if (term.name() != name_.name || term.arity() != name_.arity) continue;
        facts.push_back(role.name() + " " + term.to_string());
      }
    }
  }
  const std::string_view verb = name_.sort == Sort::move ? "legal" : "true";
  if (facts.empty()) {
    result_.lines.push_back(fmt::format("At the start none is {}.", verb));
  } else if (name_.arity == 0 && name_.sort != Sort::move) {
    result_.lines.push_back("Holds at the start.");
  } else {
    result_.lines.push_back(
        fmt::format("At the start {}: {}{}", verb, some_of(facts), all ? "" : " and more"));
  }
}

Insight InsightWriter::write() {
  switch (name_.sort) {
    case Sort::keyword:
    case Sort::directive:
    case Sort::word:
      result_.shape = shape_of(name_.name);
      result_.lines.push_back(meaning_of(name_.name));
      break;
    case Sort::text:
      break;
    case Sort::variable:
      result_.shape = name_.name;
      write_variable();
      break;
    case Sort::relation:
      result_.shape = shape();
      write_comment();
      write_arguments(ArgumentDomain::Kind::relation);
      write_start();
      write_uses();
      break;
    case Sort::fluent:
    case Sort::move:
      result_.shape = shape();
      write_comment();
      write_arguments(name_.sort == Sort::fluent ? ArgumentDomain::Kind::fluent
                                                 : ArgumentDomain::Kind::move);
      write_start();
      write_uses();
      break;
    case Sort::function:
      result_.shape = shape();
      write_arguments(ArgumentDomain::Kind::function);
      write_uses();
      break;
    case Sort::constant:
      result_.shape = name_.name;
      if (reading_ != nullptr && reading_->game) {
        for (const auto& [size, value] : reading_->sizes) {
          if (size == name_.name) result_.lines.push_back(fmt::format("A size: {}", value));
        }
        if (reading_->game->role(name_.name)) result_.lines.push_back("A role.");
      }
      write_uses();
      break;
  }
  std::erase(result_.lines, std::string());
  return std::move(result_);
}

}  // namespace

std::string meaning_of(std::string_view word) {
  const Meaning* const meaning = find_meaning(word);
  return meaning == nullptr ? std::string() : std::string(meaning->meaning);
}

std::string shape_of(std::string_view word) {
  if (const auto* const keyword = rules::find_keyword(word)) return std::string(keyword->shape);
  if (const auto* const directive = syntax::find_directive(word))
    return std::string(directive->shape);
  const auto claims = review::claim_table();
  const auto claim = std::ranges::find(claims, word, &review::ClaimFacts::name);
  if (claim != claims.end()) return std::string(claim->form);
  const Meaning* const meaning = find_meaning(word);
  return meaning == nullptr ? std::string(word) : std::string(meaning->shape);
}

Insight insight_of(const Names& text, const Name& name, const Names& rules,
                   const Reading* reading) {
  return InsightWriter(text, name, rules, reading).write();
}

}  // namespace orchard::editing
