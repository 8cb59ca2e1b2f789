#include "review/questions/conditions.hpp"

#include <absl/container/flat_hash_map.h>

#include <algorithm>
#include <set>

#include "review/inquiry/meeting.hpp"

namespace orchard::review {

namespace {

using rules::Literal;

// The rules of the game itself: what claims add stands behind.
const rules::Description& rules_of(const Findings& findings) {
  return GameAccess::core(findings.exploration().game())->program().description();
}

// What tells the conditions of a clause apart once it has no variables: the relation, and of `true`
// the functor.
std::string name_of(const rules::Description& description, const rules::Atom& atom) {
  std::string result(description.terms().name(description.relation(atom.relation).name));
  if (description.relation(atom.relation).keyword == rules::Keyword::true_ &&
      atom.arguments.front().kind != rules::PatternSymbol::Kind::variable) {
    result += " " + std::string(description.terms().name(atom.arguments.front().symbol()));
  }
  return result;
}
// The same of an atom's text: "(true (bed 1 bare))" is "true bed".
std::string name_of(std::string_view text) {
  const auto word = [&] {
    const std::size_t begin = std::min(text.find_first_not_of("( "), text.size());
    const std::size_t end = std::min(text.find_first_of(" ()", begin), text.size());
    const std::string_view result = text.substr(begin, end - begin);
    text.remove_prefix(end);
    return std::string(result);
  };
  std::string result = word();
  if (result == "true") result += " " + word();
  return result;
}

bool has_variables(const rules::Atom& atom) {
  return std::ranges::any_of(atom.arguments, [](const rules::PatternSymbol& symbol) {
    return symbol.kind == rules::PatternSymbol::Kind::variable;
  });
}

// (true (turn ann)): whose turn it is, said for the reader.
bool is_about_turn(const rules::Description& description, const rules::Atom& atom) {
  if (description.relation(atom.relation).keyword != rules::Keyword::true_) return false;
  if (atom.arguments.size() < 2) return false;
  return std::all_of(atom.arguments.begin() + 1, atom.arguments.end(),
                     [&](const rules::PatternSymbol& symbol) {
                       return symbol.kind != rules::PatternSymbol::Kind::variable &&
                              std::ranges::any_of(description.roles(), [&](rules::TermId role) {
                                return description.terms()[role].symbol == symbol.symbol();
                              });
                     });
}

// Values of ends are told apart on purpose, and whose turn it is may be said where it follows: such
// conditions are hardly slips when they exclude nothing.
bool is_said_for_clarity(const rules::Description& description, const rules::Clause& clause,
                         const rules::Atom& condition) {
  using rules::Keyword;
  const Keyword head = description.relation(clause.head.relation).keyword;
  return head == Keyword::goal || (head != Keyword::legal && is_about_turn(description, condition));
}

// A condition that may exclude nothing.
struct Candidate {
  const Literal* literal = nullptr;
  std::string name;
  std::vector<std::vector<Signal>> excluded;  // by instance: the others hold, and it does not
};

std::vector<Candidate> candidates_of(const ground::GroundProgram& ground,
                                     const rules::Description& description,
                                     const rules::Clause& clause) {
  std::vector<Candidate> result;
  if (clause.body.size() < 2) return result;
  for (std::size_t i = 0; i < clause.body.size(); ++i) {
    const Literal& literal = clause.body[i];
    if (literal.is_comparison() || ground.is_constant(literal.atom.relation)) continue;
    if (is_said_for_clarity(description, clause, literal.atom)) continue;
    const rules::Keyword keyword = description.relation(literal.atom.relation).keyword;
    const bool positive = literal.kind == Literal::Kind::positive;
    // A positive one with variables says which choices of them there are, whether or not it is
    // needed beside.
    if (positive && (keyword == rules::Keyword::does || has_variables(literal.atom))) continue;
    std::string name = name_of(description, literal.atom);
    const auto same = std::ranges::count_if(clause.body, [&](const Literal& other) {
      return other.kind == literal.kind && name_of(description, other.atom) == name;
    });
    if (same == 1) result.push_back({&literal, std::move(name), {}});
  }
  return result;
}

class Conditions {
 public:
  explicit Conditions(Findings& findings)
      : findings_(findings),
        ground_(findings.exploration().ground()),
        description_(rules_of(findings)) {}

  std::vector<Note> idle();

 private:
  void add_instance(const ground::GroundClause& clause);
  const std::string& name(ground::AtomId atom) {
    std::string& known = names_[atom];
    if (known.empty()) known = name_of(ground_.text(atom));
    return known;
  }
  Signal signal(ground::AtomId atom) const {
    return findings_.game().atoms[ground::index_of(atom)];
  }

  Findings& findings_;
  const ground::GroundProgram& ground_;
  const rules::Description& description_;
  std::vector<std::vector<Candidate>> candidates_;  // by clause
  std::vector<bool> split_;                         // clauses whose conditions stand elsewhere
  absl::flat_hash_map<ground::AtomId, std::string> names_;
};

void Conditions::add_instance(const ground::GroundClause& clause) {
  const auto positive = ground_.positive(clause);
  const auto negative = ground_.negative(clause);
  const auto is_part = [&](ground::AtomId atom) { return ground_.is_part(atom); };
  if (std::ranges::any_of(positive, is_part)) {
    split_[clause.clause] = true;
    return;
  }
  for (Candidate& candidate : candidates_[clause.clause]) {
    const bool wanted = candidate.literal->kind == Literal::Kind::positive;
    bool found = false;
    std::vector<Signal> all;
    const auto add = [&](ground::AtomId atom, bool holds) {
      if (atom == ground::no_atom) return;
      const bool it = holds == wanted && name(atom) == candidate.name;
      found = found || it;
      all.push_back(signal(atom) ^ (holds == it));
    };
    for (const auto atom : positive) add(atom, true);
    for (const auto atom : negative) add(atom, false);
    if (found) candidate.excluded.push_back(std::move(all));
  }
}

std::vector<Note> Conditions::idle() {
  const std::vector<ClauseUse>& uses = findings_.facts().clause_use();
  for (std::size_t c = 0; c < uses.size(); ++c) {
    candidates_.push_back(uses[c].used
                              ? candidates_of(ground_, description_, description_.clauses()[c])
                              : std::vector<Candidate>{});
  }
  split_.resize(candidates_.size(), false);
  for (const ground::GroundClause& clause : ground_.clauses()) {
    if (ground_.is_part(clause.head)) continue;
    if (clause.clause < candidates_.size()) add_instance(clause);
  }
  std::vector<const Literal*> literals;
  std::vector<Signal> signals;
  for (std::size_t c = 0; c < candidates_.size(); ++c) {
    if (split_[c]) continue;
    for (Candidate& candidate : candidates_[c]) {
      if (candidate.excluded.empty()) continue;
      literals.push_back(candidate.literal);
      signals.push_back(findings_.network().any_of_all(candidate.excluded));
    }
  }
  const std::vector<bool> met =
      which_are_met(findings_.exploration(), findings_.network(), signals);
  // A condition of several clauses, one for each way its rule's alternatives can be satisfied, is
  // idle if it is so in all of them.
  std::set<syntax::NodeIndex> needed;
  std::set<syntax::NodeIndex> idle;
  for (std::size_t s = 0; s < met.size(); ++s) {
    (met[s] ? needed : idle).insert(literals[s]->atom.node);
  }
  std::vector<Note> result;
  for (const syntax::NodeIndex node : idle) {
    if (needed.contains(node)) continue;
    result.push_back({description_.place(node),
                      "this condition excludes nothing: it holds whenever the others do"});
  }
  return result;
}

}  // namespace

std::vector<Note> unused_rules(Findings& findings) {
  const rules::Description& description = rules_of(findings);
  const std::vector<ClauseUse>& uses = findings.facts().clause_use();
  std::vector<bool> rule_used(description.rules().size(), false);
  std::set<syntax::NodeIndex> conditions_used;
  for (std::size_t c = 0; c < uses.size(); ++c) {
    if (!uses[c].used) continue;
    const rules::Clause& clause = description.clauses()[c];
    rule_used[clause.rule] = true;
    for (const Literal& literal : clause.body) conditions_used.insert(literal.atom.node);
  }
  std::vector<Note> result;
  std::set<std::uint32_t> told;
  std::set<syntax::NodeIndex> conditions_told;
  for (std::size_t c = 0; c < uses.size(); ++c) {
    const rules::Clause& clause = description.clauses()[c];
    if (uses[c].used) continue;
    if (!rule_used[clause.rule]) {
      if (told.insert(clause.rule).second) {
        result.push_back({uses[c].place, "this rule never takes part"});
      }
      continue;
    }
    // The first condition that no other alternative has.
    const auto alone = std::ranges::find_if(clause.body, [&](const Literal& literal) {
      return !conditions_used.contains(literal.atom.node);
    });
    const bool has_one = alone != clause.body.end();
    const syntax::NodeIndex node =
        has_one ? alone->atom.node : description.rules()[clause.rule].node;
    if (!conditions_told.insert(node).second) continue;
    result.push_back(
        {description.place(node), has_one ? "this alternative never takes part"
                                          : "some alternatives of this rule never hold together"});
  }
  return result;
}

std::vector<Note> idle_conditions(Findings& findings) {
  if (!findings.exploration().complete()) return {};
  return Conditions(findings).idle();
}

}  // namespace orchard::review
