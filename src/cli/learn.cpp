// A table that learns: `orchard learn`.
#include "orchard/learn_values.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <filesystem>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/chart_files.hpp"
#include "cli/json.hpp"
#include "cli/move_input.hpp"
#include "cli/output.hpp"
#include "cli/seats.hpp"
#include "orchard/chart.hpp"
#include "orchard/record.hpp"
#include "report/tables.hpp"

namespace orchard::cli {
namespace {

// The role of --role, else the first one but chance.
std::optional<Role> learning_role(const Call& call, const Game& game) {
  if (const auto name = call.text("role")) return game.role(tidied(*name));
  for (const Role& role : game.roles()) {
    if (!role.is_chance()) return role;
  }
  return std::nullopt;
}

TokenRules rules_of(const Call& call) {
  TokenRules rules;
  rules.initial = static_cast<std::int64_t>(*call.number("tokens"));
  rules.win = static_cast<std::int64_t>(*call.number("win"));
  rules.draw = static_cast<std::int64_t>(*call.number("draw"));
  rules.loss = -static_cast<std::int64_t>(*call.number("loss"));
  rules.alike = !call.flag("no-symmetry");
  return rules;
}

std::string csv(const LearningCurve& curve) {
  std::string text = "first_game,games,wins,draws,losses,scored,stuck,mean_goal\n";
  std::uint64_t first = curve.begun_after + 1;
  for (const LearnBlock& block : curve.blocks) {
    text += fmt::format("{},{},{},{},{},{},{},{:.3f}\n", first, block.games, block.wins,
                        block.draws, block.losses, block.scored, block.stuck, block.mean_goal());
    first += block.games;
  }
  return text;
}

// Of a role that plays alone the mean goal leads, and no game is drawn.
void print_curve(const LearningCurve& curve, bool alone, bool unicode) {
  constexpr int width = 40;
  constexpr std::size_t most_lines = 25;
  if (curve.blocks.empty()) return;
  print("   {:>14}  {:>6} {:>6} {:>6}  {:>7}\n", "games", "won", alone ? "between" : "drawn",
        "lost", alone ? "goal" : "won");
  const std::size_t together =
      std::max<std::size_t>(1, (curve.blocks.size() + most_lines - 1) / most_lines);
  std::uint64_t first = curve.begun_after;
  for (std::size_t i = 0; i < curve.blocks.size(); i += together) {
    LearnBlock sum;
    for (std::size_t j = i; j < std::min(i + together, curve.blocks.size()); ++j) {
      sum.add(curve.blocks[j]);
      sum.games += curve.blocks[j].games;
    }
    const double share = alone ? sum.mean_goal() / 100
                               : static_cast<double>(sum.wins) / static_cast<double>(sum.games);
    std::string bar;
    for (int k = 0; k < width; ++k) {
      bar += (k + 0.5) / width < share ? (unicode ? "█" : "#") : (unicode ? "░" : ".");
    }
    print("   {:>14}  {:>6} {:>6} {:>6}  {:>5.1f} {}  {}{}\n",
          fmt::format("{}-{}", first + 1, first + sum.games), sum.wins,
          alone ? sum.scored : sum.draws, sum.losses, 100 * share, alone ? " " : "%", bar,
          sum.stuck > 0 ? fmt::format("  stuck: {}", sum.stuck) : "");
    first += sum.games;
  }
}

const std::map<std::string, std::int64_t>& numbers_of(const TokenTable::Entry& entry) {
  return entry.tokens;
}
const std::map<std::string, double>& numbers_of(const ValueTable::Entry& entry) {
  return entry.values;
}
std::string shown(std::int64_t tokens) {
  return fmt::format("{:>6}", tokens);
}
std::string shown(double value) {
  return fmt::format("{:>6.1f} %", 100 * value);
}

template <class Table>
void print_table(const Picture& picture, const Table& table, const TextStyle& style) {
  std::size_t hopeless = 0;
  const auto entries = table.entries();
  for (const auto& entry : entries) {
    print("\n{}", picture.text({entry.position}, style));
    if (entry.is_hopeless()) {
      ++hopeless;
      print("   every move is bad here\n");
    }
    // Moves as one counts: (tie 1 9) before (tie 1 10).
    using Number = typename std::decay_t<decltype(numbers_of(entry))>::mapped_type;
    std::map<Term, Number> in_order;
    for (const auto& [move, number] : numbers_of(entry)) {
      in_order.emplace(Term::parse(move).value(), number);
    }
    for (const auto& [move, number] : in_order) {
      print("   {}  {}\n", shown(number), move.to_string());
    }
  }
  print("\n{} positions, {} of them with bad moves only; learnt from {} games\n", entries.size(),
        hopeless, table.games());
}

// Wins and losses block by block; of a role that plays alone the mean goal.
template <class Table>
std::string chart_of(const Game& game, const Table& table, const LearningCurve& curve) {
  ChartCurve wins{"won", {}};
  ChartCurve losses{"lost", {}};
  ChartCurve goals{"mean goal", {}};
  auto games = static_cast<double>(curve.begun_after);
  for (const LearnBlock& block : curve.blocks) {
    const auto count = static_cast<double>(block.games);
    games += count;
    wins.points.emplace_back(games, 100 * static_cast<double>(block.wins) / count);
    losses.points.emplace_back(games, 100 * static_cast<double>(block.losses) / count);
    goals.points.emplace_back(games, block.mean_goal());
  }
  const bool alone = report::plays_alone(game);
  return curve_chart(fmt::format("{} learns {}", table.role().name(), game.name()),
                     "games learnt from", alone ? "mean goal of a block" : "per cent of a block",
                     100, alone ? std::vector{goals} : std::vector{wins, losses});
}

// The table of --table, if there is one, and those of --merge.
template <class Table>
Result<Table> begun_table(const Call& call, const Game& game, Table table) {
  const auto read = [&](const std::string& file) {
    const auto text = read_table(file);
    return text ? Table::from_json(game, *text) : Result<Table>(text.diagnostics());
  };
  std::error_code ignored;  // reading says what is wrong
  if (const auto file = call.text("table"); file && std::filesystem::exists(*file, ignored)) {
    auto known = read(*file);
    if (!known) return known.diagnostics();
    table = std::move(known).value();
  }
  for (const std::string& other : call.texts("merge")) {
    const auto more = read(other);
    if (!more) return more.diagnostics();
    const Diagnostics faults = table.merge(*more);
    if (!faults.empty()) return faults;
  }
  return table;
}

// Looking at a table changes nothing, unless games are asked for.
bool only_looks(const Call& call) {
  return call.flag("show") && call.text("table") && !call.number("games") &&
         call.texts("merge").empty();
}

template <class Table>
Status learn_with(const Call& call, const Game& game, Table fresh) {
  const auto table_file = call.text("table");
  std::optional<FileLock> lock;
  if (table_file && !only_looks(call)) {
    if (const Diagnostics faults = check_writable(*table_file); !faults.empty()) {
      return report(call, faults);
    }
    auto taken = FileLock::take(*table_file,
                                "wait until it has ended, or learn into another table and put both "
                                "together with --merge");
    if (!taken) return report(call, taken.diagnostics());
    lock.emplace(std::move(taken).value());
  }
  auto begun = begun_table(call, game, std::move(fresh));
  if (!begun) return report(call, begun.diagnostics());
  Table learnt = std::move(begun).value();
  LearnOptions options;
  const Diagnostics faults = assign_to_roles(call, game, "seat", options.against);
  if (!faults.empty()) return report(call, faults);
  for (const auto& [role, who] : options.against) {
    auto learning = learning_from_file(game, *game.role(role), who, *call.number("seed"));
    if (!learning) return report(call, learning.diagnostics());
    if (*learning) {
      // Made once, like every opponent of a learner.
      const auto kept = std::make_shared<std::unique_ptr<Opponent>>(std::move(learning).value());
      options.makers[role] = [kept](std::uint64_t) { return std::move(*kept); };
      continue;
    }
    const auto from_file = player_from_file(game, who);
    if (!from_file) return report(call, from_file.diagnostics());
    if (from_file->make) options.makers[role] = from_file->make;
  }
  options.games = only_looks(call) ? 0 : call.number("games").value_or(options.games);
  if (options.games == 0 && (call.text("svg") || call.text("png") || call.text("csv"))) {
    return report(call, plain_error("wrong-call", "without games there is no curve to write",
                                    "leave out --svg, --png and --csv, or give --games K"));
  }
  options.block = *call.number("block");
  // Going on from a table, other games than those it has learnt from.
  options.seed = *call.number("seed") + learnt.games();
  options.plies = *call.number("plies");
  options.random_plies = *call.number("random-plies");
  options.budget = call.budget();
  if (const auto starts = call.text("starts")) {
    const auto positions = read_positions(game, *starts);
    if (!positions) return report(call, positions.diagnostics());
    for (const NamedPosition& next : *positions) options.starts.push_back(next.position);
  }
  const bool merges = !call.texts("merge").empty();
  Diagnostics unwritten;
  if (table_file) {
    options.save_every = *call.seconds("save-every");
    options.save = [&] { unwritten = write_whole_file(*table_file, learnt.to_json()); };
  }
  std::optional<Match> last;
  if (call.text("last-game")) options.ended = [&](const Match& match) { last = match; };
  const auto curve = orchard::learn(game, learnt, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!curve) return report(call, curve.diagnostics());
  if (table_file && (options.games > 0 || merges)) {
    unwritten = write_whole_file(*table_file, learnt.to_json());
  }
  if (const auto file = call.text("last-game"); file && last) {
    unwritten.append(write_whole_file(*file, to_json_lines(record_of(*last), *last)));
  }
  unwritten.append(write_charts(call, chart_of(game, learnt, *curve)));
  if (const auto to = call.text("csv")) unwritten.append(write_whole_file(*to, csv(*curve)));
  if (call.json()) {
    print_json(document_of(learnt, *curve));
    return after_side_files(status_of(curve->ending), unwritten);
  }
  if (options.games > 0) print("{} learns {}\n\n", learnt.role().name(), game.name());
  print_curve(*curve, report::plays_alone(game), call.style().unicode);
  if (call.flag("show")) {
    const auto picture = picture_of(call, game);
    if (!picture) return Status::wrong_call;
    print_table(*picture, learnt, call.style());
  } else {
    print("\n{} positions met; learnt from {} games\n", learnt.size(), learnt.games());
  }
  return after_side_files(status_of(curve->ending), unwritten);
}

}  // namespace

Status learn(const Call& call) {
  const auto loaded = load_game(call);
  if (!loaded) return Status::wrong_call;
  const std::optional<Game> game = game_to_explore(call, *loaded);
  const auto role = learning_role(call, *game);
  if (!role || role->is_chance()) {
    return report(call, plain_error("wrong-call", "no role of that name can learn",
                                    "give --role ROLE, any role of the game but chance"));
  }
  if (!call.flag("values"))
    return learn_with(call, *game, TokenTable(*game, *role, rules_of(call)));
  ValueRules rules;
  constexpr double per_cent = 100;
  rules.step = static_cast<double>(*call.number("step")) / per_cent;
  rules.explore = static_cast<double>(*call.number("explore")) / per_cent;
  rules.alike = !call.flag("no-symmetry");
  return learn_with(call, *game, ValueTable(*game, *role, rules));
}

}  // namespace orchard::cli
