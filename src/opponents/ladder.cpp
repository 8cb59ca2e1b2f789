// The ladder of opponents by their names.
#include <fmt/core.h>

#include <charconv>

#include "base/similar.hpp"
#include "game/core.hpp"
#include "opponents/look_ahead_opponents.hpp"
#include "opponents/perfect_opponent.hpp"
#include "opponents/playouts_opponent.hpp"
#include "orchard/opponent.hpp"

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

Result<std::unique_ptr<Opponent>> make_opponent(std::string_view who, std::uint64_t seed) {
  const std::size_t colon = who.find(':');
  const std::string_view name = who.substr(0, colon);
  const std::string_view more = colon == std::string_view::npos ? "" : who.substr(colon + 1);
  const bool given = colon != std::string_view::npos;
  if (name == "random" && !given) return random_opponent(seed);
  if (name == "greedy" && !given) {
    return std::unique_ptr<Opponent>(std::make_unique<GreedyOpponent>(seed));
  }
  if (name == "careful" && !given) {
    return std::unique_ptr<Opponent>(std::make_unique<CarefulOpponent>(seed));
  }
  if (name == "perfect" && !given) {
    return std::unique_ptr<Opponent>(std::make_unique<PerfectOpponent>(seed));
  }
  if (name == "lookahead" && given && more.ends_with('s')) {
    const auto seconds = seconds_of(more);
    if (!seconds) return unknown(who, "write lookahead:SECONDSs, as lookahead:0.5s");
    return std::unique_ptr<Opponent>(std::make_unique<LookAheadOpponent>(seed, *seconds));
  }
  if (name == "lookahead") {
    const auto plies = given ? whole(more) : std::optional<std::uint64_t>(3);
    if (!plies || *plies < 1 || *plies > 100)
      return unknown(who, "write lookahead:PLIES, 1 to 100");
    return std::unique_ptr<Opponent>(
        std::make_unique<LookAheadOpponent>(seed, static_cast<int>(*plies)));
  }
  if (name == "playouts") {
    SearchLimit limit;
    const std::size_t slash = more.find('/');
    const std::string_view amount = more.substr(0, slash);
    if (slash != std::string_view::npos) {
      const auto threads = whole(more.substr(slash + 1));
      if (!threads || *threads < 1 || *threads > 256)
        return unknown(who, "write playouts:SECONDSs/THREADS, as playouts:1s/2");
      limit.threads = static_cast<unsigned>(*threads);
    }
    if (given && amount.ends_with('s')) {
      const auto seconds = seconds_of(amount);
      if (!seconds) return unknown(who, "write playouts:SECONDSs, as playouts:0.5s");
      limit.seconds = *seconds;
      // Measured: where time counts, eight games from a leaf say more than eight leaves.
      limit.games_a_leaf = 8;
    } else if (given) {
      const auto count = whole(amount);
      if (!count || *count < 1) return unknown(who, "write playouts:COUNT or playouts:SECONDSs");
      limit.playouts = *count;
    }
    return std::unique_ptr<Opponent>(std::make_unique<PlayoutsOpponent>(seed, limit));
  }
  const std::vector<std::string> names = {"random",    "greedy",   "careful",
                                          "lookahead", "playouts", "perfect"};
  const auto meant = most_similar(std::string(name), names);
  return unknown(who, meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("there are: {}", all_names()));
}

std::optional<std::string> opponent_caveat(std::string_view who, const Game& game) {
  const std::string_view name = who.substr(0, who.find(':'));
  const bool searches = name == "greedy" || name == "careful" || name == "lookahead" ||
                        name == "playouts" || name == "perfect";
  if (searches && GameAccess::core(game)->lanes() == nullptr) {
    return fmt::format("{} chooses at random here: the rules have too many instances to look ahead",
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
