#include "orchard/review.hpp"

#include <algorithm>
#include <array>

#include "base/cut_short.hpp"
#include "review/claims/claims.hpp"
#include "review/claims/searched_claim.hpp"
#include "review/face/written_proofs.hpp"
#include "review/questions/questions.hpp"
#include "rules/findings.hpp"

namespace orchard {

using review::Conclusion;
using review::Exploration;
using review::Findings;
using review::Watchlist;

namespace {

struct Asked {
  std::string_view id;
  review::Question ask;
};

constexpr std::array asked_questions{
    Asked{"opens", review::ask_opens},       Asked{"ends", review::ask_ends},
    Asked{"moves", review::ask_moves},       Asked{"winnable", review::ask_winnable},
    Asked{"scored", review::ask_scored},     Asked{"single-valued", review::ask_single_valued},
    Asked{"declared", review::ask_declared}, Asked{"settled", review::ask_settled},
    Asked{"effect", review::ask_effect},     Asked{"dead", review::ask_dead},
    Asked{"turns", review::ask_turns},       Asked{"draws", review::ask_draws},
    Asked{"balance", review::ask_balance},   Asked{"alike", review::ask_alike},
    Asked{"symmetry", review::ask_symmetry}, Asked{"sum", review::ask_sum},
    Asked{"outcomes", review::ask_outcomes},
};

bool is_allowed(const std::vector<std::string>& allow, std::string_view id) {
  return std::ranges::any_of(allow, [&](const std::string& left_out) {
    return id == left_out || id.substr(0, id.find(':')) == left_out;
  });
}

// That all there is was explored is not all, if not all of it was looked at.
Ending ending_of(const Exploration& exploration) {
  const bool of_looking = exploration.ending() == Ending::complete && exploration.cut_short();
  return of_looking ? Interruption::asked().value_or(Ending::time) : exploration.ending();
}

void add_depths(const Exploration& exploration, Review& review) {
  if (exploration.swept() != nullptr) {
    for (const auto& depth : exploration.swept()->depths()) {
      review.depths.push_back({depth.positions, depth.ends});
    }
    return;
  }
  const explore::StateSpace& space = exploration.space();
  for (std::size_t d = 0; d < space.depths().size(); ++d) {
    const std::uint32_t first = space.depths()[d];
    const std::uint32_t end = d + 1 < space.depths().size() ? space.depths()[d + 1] : space.size();
    ReviewDepth depth{space.positions(first, end), 0};
    for (std::uint32_t p = first; p < std::min(end, space.expanded()); p += space.stride()) {
      if (space.kind(p) != explore::StateSpace::Kind::terminal) continue;
      depth.ends += space.class_size(space.class_of(p));
    }
    review.depths.push_back(depth);
  }
}

}  // namespace

std::string_view name_of(Verdict verdict) {
  switch (verdict) {
    case Verdict::holds:
      return "holds";
    case Verdict::fails:
      return "fails";
    case Verdict::unknown:
      return "unknown";
    case Verdict::suspicious:
      return "suspicious";
    case Verdict::described:
      break;
  }
  return "described";
}

bool Review::failed() const {
  const auto fails = [](const Answer& answer) {
    return answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
  };
  return std::ranges::any_of(questions, fails) || std::ranges::any_of(claims, fails);
}

bool Review::undecided() const {
  if (!not_asked.empty()) return true;
  const auto unknown = [](const Answer& answer) { return answer.verdict == Verdict::unknown; };
  return std::ranges::any_of(questions, unknown) || std::ranges::any_of(claims, unknown);
}

std::vector<std::string> question_ids() {
  std::vector<std::string> result;
  for (const Asked& question : asked_questions) result.emplace_back(question.id);
  return result;
}

namespace {

// Exploring gets so much of the time: what was found is to be looked at and thought about, too. Of
// a large game no budget explores much, and proofs take long.
constexpr double share_of_exploring = 0.6;
constexpr double share_if_large = 0.1;

// What is left over after the time for asking, for looking at what was found, and for the answers.
constexpr std::chrono::milliseconds first_words(30);
constexpr std::chrono::milliseconds looking_words(55);
constexpr std::chrono::milliseconds last_words(80);

double share_of_exploring_in(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes_near_start();
  return Exploration::is_large(lanes) ? share_if_large : share_of_exploring;
}

Budget for_exploring(Budget budget, const Stopwatch& clock, double share) {
  if (budget.seconds) budget.seconds = share * std::max(*budget.seconds - clock.seconds(), 0.0);
  return budget;
}

// What can be told of the first plies alone: of the rest nothing is known, not even by proof.
constexpr std::array asked_near_start{"opens",  "ends",          "moves", "winnable",
                                      "scored", "single-valued", "effect"};

// Of answers about the first plies only what was met there is certain.
void keep_what_was_met(std::vector<Answer>& answers) {
  for (Answer& answer : answers) {
    const bool is_won = answer.id.starts_with("winnable:") && answer.verdict == Verdict::holds;
    const bool is_met = answer.line || answer.id == "opens" || is_won;
    if (!is_met || answer.verdict == Verdict::suspicious) answer.verdict = Verdict::unknown;
  }
}

Result<Review> reviewed(const Game& game, const ReviewOptions& options) {
  const Budget budget = review::with_defaults(options.budget);
  const Stopwatch clock(budget);
  const GameCore& core = *GameAccess::core(game);
  if (core.lanes_near_start() == nullptr) {
    Review review;
    review.not_asked = core.lanes_fault();
    return review;
  }
  auto claims = review::Claims::read(game, options);
  if (!claims) return claims.diagnostics();
  const Game& explored = claims->explored();
  Exploration exploration(game, explored, options.seed);
  if (Diagnostics faults =
          exploration.explore(for_exploring(options.budget, clock, share_of_exploring_in(explored)),
                              options.threads, options.symmetry);
      !faults.empty())
    return faults;
  Watchlist list(exploration);
  std::vector<std::pair<std::string_view, Conclusion>> conclusions;
  // Left out by the call, or by a comment of the description.
  std::vector<std::string> allow = options.allow;
  for (const std::string& code :
       rules::allowed_codes(core.program().description().tree().source().text())) {
    allow.push_back(code);
  }
  std::optional<LastWords> phase(std::in_place, first_words);
  for (const Asked& question : asked_questions) {
    if (is_allowed(allow, question.id)) continue;
    if (core.exact_plies() &&
        std::ranges::find(asked_near_start, question.id) == asked_near_start.end()) {
      continue;
    }
    try {
      if (Conclusion conclusion = question.ask(list)) {
        conclusions.emplace_back(question.id, std::move(conclusion));
      }
    } catch (const Interrupted& interrupted) {
      conclusions.emplace_back(question.id, [&question, interrupted](Findings&) {
        return std::vector{review::left_open(std::string(question.id), interrupted)};
      });
    }
  }
  const Conclusion of_claims = claims->ask(list);
  phase.emplace(looking_words);
  Findings findings = std::move(list).look(options.solution);
  phase.emplace(last_words);
  Review review;
  review::ProofNotes proofs(findings);
  // What may take all the time that is left comes last, and leaves some for the claims.
  constexpr std::string_view hardest = "ends";
  constexpr double share_of_hardest = 0.85;
  std::vector<std::vector<Answer>> answers(conclusions.size());
  for (const bool hard : {false, true}) {
    for (std::size_t c = 0; c < conclusions.size(); ++c) {
      const auto& [id, conclusion] = conclusions[c];
      if ((id == hardest) != hard) continue;
      Budget part;
      if (hard && options.budget.seconds) {
        part.seconds = share_of_hardest * std::max(*options.budget.seconds - clock.seconds(), 0.0);
      }
      const Interruption interruption(part);
      findings.answering(std::string(id));
      try {
        answers[c] = conclusion(findings);
      } catch (const Interrupted& interrupted) {
        answers[c] = {review::left_open(std::string(id), interrupted)};
      }
    }
  }
  for (std::size_t c = 0; c < conclusions.size(); ++c) {
    proofs.note(answers[c], std::string(conclusions[c].first));
    for (Answer& answer : answers[c]) {
      if (!is_allowed(allow, answer.id)) review.questions.push_back(std::move(answer));
    }
  }
  review.claims = of_claims(findings);
  for (const Answer& claim : review.claims) proofs.note({claim}, "claim " + claim.id);
  if (core.exact_plies()) {
    keep_what_was_met(review.questions);
    keep_what_was_met(review.claims);
  }
  try {
    review.clauses = findings.facts().clause_use();
  } catch (const Interrupted&) {  // the question `dead` says so
  }
  add_depths(exploration, review);
  review.positions = exploration.space().positions();
  review.classes = exploration.space().classes();
  review.looked_at_all = exploration.looked_at_all();
  if (review.looked_at_all || exploration.swept()) review.looked_at = exploration.positions();
  review.random_games = exploration.sampled_games();
  review.ending = ending_of(exploration);
  if (options.proofs) {
    auto written = proofs.write(*options.proofs);
    if (!written) return written.diagnostics();
    review.proofs = *written;
  }
  review.seconds = clock.seconds();
  return review;
}

}  // namespace

Result<Review> review_rules(const Game& game, const ReviewOptions& options) {
  const Interruption interruption(options.budget);
  try {
    return reviewed(game, options);
  } catch (const Interrupted& interrupted) {
    Review review;
    review.ending = interrupted.ending;
    review.not_asked.add(cut_short(
        interrupted.ending, "no question could be asked, as the rules were still being prepared"));
    return review;
  }
}

namespace {

Result<Sought> sought(const Game& game, const std::string& formula, const ReviewOptions& options) {
  auto claims = review::Claims::of_formula(game, formula);
  if (!claims) return claims.diagnostics();
  const Budget budget = review::with_defaults(options.budget);
  const Stopwatch clock(budget);
  const review::Claim& claim = claims->claims().front();
  // What shows after a few plies is found before many positions are looked at.
  constexpr std::uint64_t first_look = 20'000;
  constexpr std::uint64_t times = 8;
  for (std::uint64_t positions = first_look;
       !options.budget.checkpoint && positions * times <= *budget.positions; positions *= times) {
    Budget part = budget;
    part.positions = positions;
    Exploration exploration(game, claims->explored(), options.seed);
    if (Diagnostics faults =
            exploration.explore(part, options.threads, ReviewOptions::Symmetry::never);
        !faults.empty()) {
      return faults;
    }
    // The rest is for a look at all of it, with proofs.
    if (exploration.ending() != Ending::positions) break;
    exploration.keep_to_explored();
    Watchlist list(exploration);
    const review::SearchedClaim search(list, claim);
    Findings findings = std::move(list).look();
    Sought early = search.sought(findings);
    if (!early.line || claim.is_beyond) continue;
    early.unfit = claim.unfit;
    early.positions = exploration.positions();
    early.ending = ending_of(exploration);
    early.seconds = clock.seconds();
    return early;
  }
  Exploration exploration(game, claims->explored(), options.seed);
  if (Diagnostics faults =
          exploration.explore(for_exploring(options.budget, clock, share_of_exploring),
                              options.threads, options.symmetry);
      !faults.empty())
    return faults;
  std::optional<LastWords> phase(std::in_place, first_words);
  Watchlist list(exploration);
  const review::SearchedClaim search(list, claim);
  phase.emplace(looking_words);
  Findings findings = std::move(list).look();
  phase.emplace(last_words);
  Sought result = search.sought(findings);
  result.unfit = claim.unfit;
  if (claim.is_beyond) {
    result.line.reset();
    result.choice.clear();
  }
  result.positions = exploration.positions();
  result.ending = exploration.looked_at_all() ? Ending::complete : ending_of(exploration);
  result.seconds = clock.seconds();
  return result;
}

}  // namespace

Result<Sought> find_position(const Game& game, const std::string& formula,
                             const ReviewOptions& options) {
  const Interruption interruption(options.budget);
  try {
    return sought(game, formula, options);
  } catch (const Interrupted& interrupted) {
    Sought nothing;
    nothing.ending = interrupted.ending;
    return nothing;
  }
}

}  // namespace orchard
