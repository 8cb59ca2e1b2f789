// The ladder of opponents by their names.
#include <fmt/core.h>

#include <charconv>

#include "base/similar.hpp"
#include "game/core.hpp"
#include "opponents/look_ahead_opponents.hpp"
#include "opponents/perfect_opponent.hpp"
#include "opponents/playouts_opponent.hpp"
#include "opponents/preferring_opponent.hpp"
#include "orchard/opponent_rules.hpp"

namespace orchard {
namespace {

using opponents::CarefulOpponent;
using opponents::GreedyOpponent;
using opponents::LookAheadOpponent;
using opponents::PerfectOpponent;
using opponents::PlayoutsOpponent;
using opponents::SearchLimit;

Diagnostic unknown(std::string_view who, std::string remedy) {
  return plain_error("unknown-opponent", fmt::format("there is no opponent {}", who),
                     std::move(remedy));
}

std::string all_names() {
  std::string list;
  for (const std::string& name : opponent_names()) list += (list.empty() ? "" : ", ") + name;
  return list;
}

// A whole number, or none.
std::optional<std::uint64_t> whole(std::string_view text) {
  std::uint64_t value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return value;
}

// "0.5s" as a number of seconds, or none.
std::optional<double> seconds_of(std::string_view text) {
  const std::string number(text.substr(0, text.size() - 1));
  char* end = nullptr;
  const double seconds = std::strtod(number.c_str(), &end);
  const bool right = !number.empty() && *end == '\0' && seconds > 0 && seconds < 1e6;
  return right ? std::optional(seconds) : std::nullopt;
}

}  // namespace

std::vector<std::string> opponent_names() {
  return {"random",
          "greedy",
          "careful",
          "lookahead[:PLIES|:SECONDSs]",
          "playouts[:COUNT|:SECONDSs][/THREADS]",
          "perfect"};
}

namespace {

using Worth = std::shared_ptr<const opponents::Preferences>;  // of leaves; none: by playouts
using Made = Result<std::unique_ptr<Opponent>>;

// `more`: what stands behind the colon, if there is one.
Made make_look_ahead(std::string_view who, std::optional<std::string_view> more, std::uint64_t seed,
                     const Worth& worth) {
  if (more && more->ends_with('s')) {
    const auto seconds = seconds_of(*more);
    if (!seconds) return unknown(who, "write lookahead:SECONDSs, as lookahead:0.5s");
    return std::unique_ptr<Opponent>(std::make_unique<LookAheadOpponent>(seed, *seconds, worth));
  }
  const auto plies = more ? whole(*more) : std::optional<std::uint64_t>(3);
  if (!plies || *plies < 1 || *plies > 100) return unknown(who, "write lookahead:PLIES, 1 to 100");
  return std::unique_ptr<Opponent>(
      std::make_unique<LookAheadOpponent>(seed, static_cast<int>(*plies), worth));
}

Made make_playouts(std::string_view who, std::optional<std::string_view> more, std::uint64_t seed,
                   const Worth& worth) {
  SearchLimit limit;
  const std::string_view all = more.value_or("");
  const std::size_t slash = all.find('/');
  const std::string_view amount = all.substr(0, slash);
  if (slash != std::string_view::npos) {
    const auto threads = whole(all.substr(slash + 1));
    if (!threads || *threads < 1 || *threads > 256)
      return unknown(who, "write playouts:SECONDSs/THREADS, as playouts:1s/2");
    limit.threads = static_cast<unsigned>(*threads);
  }
  if (more && amount.ends_with('s')) {
    const auto seconds = seconds_of(amount);
    if (!seconds) return unknown(who, "write playouts:SECONDSs, as playouts:0.5s");
    limit.seconds = *seconds;
    // Measured: where time counts, eight games from a leaf say more than eight leaves.
    limit.games_a_leaf = 8;
  } else if (more) {
    const auto count = whole(amount);
    if (!count || *count < 1) return unknown(who, "write playouts:COUNT or playouts:SECONDSs");
    limit.playouts = *count;
  }
  return std::unique_ptr<Opponent>(std::make_unique<PlayoutsOpponent>(seed, limit, worth));
}

struct Named {
  std::string_view name;
  std::optional<std::string_view> more;  // behind a colon
};

Named taken_apart(std::string_view who) {
  const std::size_t colon = who.find(':');
  if (colon == std::string_view::npos) return {who, std::nullopt};
  return {who.substr(0, colon), who.substr(colon + 1)};
}

}  // namespace

Made make_opponent(std::string_view who, std::uint64_t seed) {
  const auto [name, more] = taken_apart(who);
  if (name == "random" && !more) return random_opponent(seed);
  if (name == "greedy" && !more) {
    return std::unique_ptr<Opponent>(std::make_unique<GreedyOpponent>(seed));
  }
  if (name == "careful" && !more) {
    return std::unique_ptr<Opponent>(std::make_unique<CarefulOpponent>(seed));
  }
  if (name == "perfect" && !more) {
    return std::unique_ptr<Opponent>(std::make_unique<PerfectOpponent>(seed));
  }
  if (name == "lookahead") return make_look_ahead(who, more, seed, nullptr);
  if (name == "playouts") return make_playouts(who, more, seed, nullptr);
  const std::vector<std::string> names = {"random",    "greedy",   "careful",
                                          "lookahead", "playouts", "perfect"};
  const auto meant = most_similar(std::string(name), names);
  return unknown(who, meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("there are: {}", all_names()));
}

Made make_opponent(std::string_view who, std::uint64_t seed, const OpponentRules& rules) {
  const auto [name, more] = taken_apart(who);
  const bool plain = name == "rules" && !more;
  if (plain && rules.prefers()) {
    return std::unique_ptr<Opponent>(
        std::make_unique<opponents::PreferringOpponent>(seed, rules.inner_));
  }
  if (!plain && name != "lookahead" && name != "playouts") {
    return unknown(who, "with rules of its own: rules, lookahead… or playouts…");
  }
  if (!rules.judges()) {
    return plain_error("bad-preference", "the rules do not say what positions are worth",
                       "add rules for (worth ROLE VALUE)");
  }
  if (name == "playouts") return make_playouts(who, more, seed, rules.inner_);
  return make_look_ahead(who, plain ? std::optional<std::string_view>("2") : more, seed,
                         rules.inner_);
}

Result<OpponentRules> OpponentRules::load(const Game& game, const std::string& path) {
  auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  auto made = opponents::Preferences::make(game, *source);
  if (!made) return made.diagnostics();
  return OpponentRules(*made);
}

Result<OpponentRules> OpponentRules::from_text(const Game& game, std::string text,
                                               std::string name) {
  auto made = opponents::Preferences::make(game, syntax::Source(std::move(name), std::move(text)));
  if (!made) return made.diagnostics();
  return OpponentRules(*made);
}

bool OpponentRules::prefers() const {
  return inner_->prefers();
}
bool OpponentRules::judges() const {
  return inner_->judges();
}
const Diagnostics& OpponentRules::findings() const {
  return inner_->findings();
}

std::optional<std::string> opponent_caveat(std::string_view who, const Game& game) {
  const std::string_view name = who.substr(0, who.find(':'));
  const bool searches = name == "greedy" || name == "careful" || name == "lookahead" ||
                        name == "playouts" || name == "perfect";
  if (searches && GameAccess::core(game)->lanes() == nullptr) {
    return fmt::format(
        "{} looks at the next two plies and at some random games here: without a circuit of the "
        "rules it cannot look further",
        who);
  }
  if ((name == "perfect" || name == "solved") && game.has_hidden_information()) {
    return fmt::format("{} plays as playouts here: with hidden information best play is not known",
                       who);
  }
  return std::nullopt;
}

std::unique_ptr<Opponent> solved_opponent(Solution solution, std::uint64_t seed) {
  return std::make_unique<PerfectOpponent>(seed, std::move(solution));
}

}  // namespace orchard
