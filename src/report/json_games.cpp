#include "report/json.hpp"
#include "report/tables.hpp"

namespace orchard::report {

namespace {

constexpr std::uint64_t largest_exact = std::uint64_t{1} << 53;  // in a JSON number

Json sequences_json(const std::string& count) {
  if (count.size() > 16) return count;
  const std::uint64_t value = std::stoull(count);
  return value <= largest_exact ? Json(value) : Json(count);
}

}  // namespace

Json document_of(const Census& census) {
  Json depths = Json::array();
  std::uint64_t stuck = 0;
  for (const CensusDepth& row : census.depths) {
    Json entry = {{"depth", row.depth}, {"positions", row.positions}, {"terminal", row.terminal}};
    if (row.sequences) entry["sequences"] = sequences_json(*row.sequences);
    depths.push_back(std::move(entry));
    stuck += row.stuck;
  }
  Json document = {{"depths", depths},
                   {"complete", census.complete},
                   {"positions", census.positions},
                   {"seconds", census.seconds}};
  if (stuck > 0) document["stuck"] = stuck;
  if (census.ending != Ending::complete) document["stopped"] = name_of(census.ending);
  return document;
}

Json document_of(const FormulaCounts& counts) {
  Json list = Json::array();
  for (const FormulaCount& count : counts.formulas) {
    Json first = Json::array();
    for (const auto& [plies, games] : count.first)
      first.push_back({{"plies", plies}, {"games", games}});
    Json entry = {{"formula", count.formula},
                  {"games", count.games},
                  {"positions", count.positions},
                  {"mean_first", count.mean_first()},
                  {"first", first}};
    if (!count.unfit.empty()) entry["unfit"] = count.unfit;
    list.push_back(std::move(entry));
  }
  return {
      {"games", counts.games}, {"complete", counts.ending == Ending::complete}, {"formulas", list}};
}

Json document_of(const Game& game, const PlayoutStatistics& result) {
  Json histogram = Json::array();
  for (const auto& [plies, games] : result.lengths) {
    histogram.push_back({{"plies", plies}, {"games", games}});
  }
  Json branching = Json::object();
  for (const Role& role : game.roles()) branching[role.name()] = result.branching[role.index()];
  Json outcomes = Json::array();
  for (const auto& [values, count] : result.outcomes) {
    outcomes.push_back({{"goals", goals_json(game, values)}, {"count", count}});
  }
  const bool any = !result.lengths.empty();
  Json document = {{"playouts", result.playouts},
                   {"moves", result.plies},
                   {"seconds", result.seconds},
                   {"playouts_per_second", static_cast<double>(result.playouts) / result.seconds},
                   {"length",
                    {{"mean", result.mean_length()},
                     {"min", any ? result.lengths.begin()->first : 0},
                     {"median", result.median_length()},
                     {"max", any ? result.lengths.rbegin()->first : 0},
                     {"histogram", histogram}}},
                   {"branching", branching},
                   {"unfinished", result.unfinished},
                   {"stuck", result.stuck},
                   {"outcomes", outcomes}};
  if (result.ending == Ending::stopped) document["stopped"] = "stopped";
  return document;
}

Json document_of(const Game& game, const Position& position, const Solution& solution) {
  Json value = Json::object();
  Json best = Json::object();
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    if (const auto worth = solution.value(position, role)) value[role.name()] = *worth;
    Json& moves = best[role.name()] = Json::array();
    for (const GoodMove& next : solution.best(position, role)) {
      moves.push_back({{"move", next.move.to_string()}, {"share", next.share}});
    }
  }
  Json result = {{"value", value},
                 {"best", best},
                 {"line", line_json(game, solution.line())},
                 {"positions", solution.positions()},
                 {"complete", solution.complete()},
                 {"assumes", solution.secures()           ? "the others act together against it"
                             : solution.assumes_selfish() ? "each takes what is best for itself"
                                                          : "nothing"},
                 {"everything_seen", game.has_hidden_information()}};
  if (!solution.complete()) result["reason"] = solution.reason();
  if (!solution.remark().empty()) result["remark"] = solution.remark();
  return result;
}

Json choices_of(const Game& game, const Solution& solution, const Budget& budget, Ending& ending) {
  Json result = Json::array();
  const auto add = [&](const Solution::Choice& choice) {
    Json fluents = Json::array();
    for (const Term& fluent : choice.position.fluents()) fluents.push_back(fluent.to_string());
    Json best = Json::array();
    for (const GoodMove& next : choice.best) {
      best.push_back({{"move", next.move.to_string()}, {"share", next.share}});
    }
    result.push_back({{"position", fluents},
                      {"role", choice.role.name()},
                      {"value", choice.value},
                      {"best", best}});
  };
  ending = solution.each_choice(game, add, budget);
  return result;
}

namespace {

Json tally_json(const SeriesTally& tally) {
  const Share share = score_of(tally);
  Json entry = {{"games", tally.games},    {"wins", tally.wins},
                {"draws", tally.draws},    {"losses", tally.losses},
                {"scored", tally.scored},  {"stuck", tally.stuck},
                {"score", share.share},    {"interval", {share.least, share.most}},
                {"choices", tally.choices}};
  if (tally.results() > 0) entry["mean_goal"] = tally.mean_goal();
  if (tally.choices > 0) {
    entry["seconds_per_choice"] = tally.seconds / static_cast<double>(tally.choices);
  }
  return entry;
}

template <class Result>
Json sums_json(const Result& result) {
  return {{"games", result.games},
          {"stored", result.stored},
          {"unfinished", result.unfinished},
          {"stuck", result.stuck},
          {"without_goals", result.without_goals},
          {"forfeits", result.forfeits},
          {"late", result.late},
          {"complete", result.ending == Ending::complete}};
}

}  // namespace

Json document_of(const Game& game, const SeriesOptions& options, const SeriesResult& result) {
  const std::vector<std::string> seats = seat_names(game);
  Json players = Json::array();
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    Json entry = tally_json(result.by_player[p]);
    entry["name"] = options.players[p].name;
    entry["who"] = options.players[p].who;
    Json& by_seat = entry["seats"] = Json::object();
    for (std::size_t seat = 0; seat < seats.size(); ++seat) {
      if (result.by_seat[p][seat].games > 0) {
        by_seat[seats[seat]] = tally_json(result.by_seat[p][seat]);
      }
    }
    players.push_back(std::move(entry));
  }
  Json lengths = Json::array();
  for (const auto& [plies, games] : result.lengths) {
    lengths.push_back({{"plies", plies}, {"games", games}});
  }
  Json document = sums_json(result);
  document["players"] = players;
  document["lengths"] = lengths;
  return document;
}

Json document_of(const SeriesOptions& options, const RoundRobinResult& result) {
  Json players = Json::array();
  for (const std::size_t p : by_rating(result)) {
    Json entry = tally_json(result.by_player[p]);
    entry["name"] = options.players[p].name;
    entry["who"] = options.players[p].who;
    entry["rating"] = result.ratings[p].rating;
    entry["rating_interval"] = {result.ratings[p].least, result.ratings[p].most};
    Json& against = entry["better_than"] = Json::object();
    for (std::size_t other = 0; other < options.players.size(); ++other) {
      if (other != p) against[options.players[other].name] = result.better[p][other];
    }
    players.push_back(std::move(entry));
  }
  Json document = sums_json(result);
  document["players"] = players;
  return document;
}

namespace {

template <class Table>
Json learning_document(const Table& table, const LearningCurve& curve) {
  Json blocks = Json::array();
  std::uint64_t next = curve.begun_after + 1;
  for (const LearnBlock& block : curve.blocks) {
    blocks.push_back({{"first_game", next},
                      {"games", block.games},
                      {"wins", block.wins},
                      {"draws", block.draws},
                      {"losses", block.losses},
                      {"scored", block.scored},
                      {"stuck", block.stuck},
                      {"mean_goal", block.mean_goal()}});
    next += block.games;
  }
  std::size_t hopeless = 0;
  for (const auto& entry : table.entries()) hopeless += entry.is_hopeless() ? 1 : 0;
  return {{"role", table.role().name()}, {"blocks", blocks},
          {"positions", table.size()},   {"hopeless", hopeless},
          {"games", table.games()},      {"complete", curve.ending == Ending::complete}};
}

}  // namespace

Json document_of(const TokenTable& table, const LearningCurve& curve) {
  return learning_document(table, curve);
}

Json document_of(const ValueTable& table, const LearningCurve& curve) {
  return learning_document(table, curve);
}

Json document_of(const CircuitStatistics& of) {
  return {{"fluents", of.fluents},
          {"moves", of.moves},
          {"atoms", of.atoms},
          {"clauses", of.clauses},
          {"gates", of.gates},
          {"play_gates", of.play_gates},
          {"play_pairs", of.play_pairs},
          {"operations", of.operations},
          {"choices", of.choices},
          {"scratch_blocks", of.scratch_blocks},
          {"code_bytes", of.code_bytes},
          {"executor", of.executor},
          {"ground_seconds", of.ground_seconds},
          {"network_seconds", of.network_seconds},
          {"mapping_seconds", of.mapping_seconds},
          {"code_seconds", of.code_seconds}};
}

}  // namespace orchard::report
