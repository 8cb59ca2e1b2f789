#include "cli/call.hpp"

#include <fmt/core.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <set>
#include <stdexcept>

#include "base/counted.hpp"
#include "base/cut_short.hpp"
#include "base/file.hpp"
#include "base/option_table.hpp"
#include "cli/json.hpp"
#include "cli/move_input.hpp"
#include "cli/output.hpp"
#include "game/core.hpp"
#include "game/reached_circuit.hpp"
#include "orchard/playouts.hpp"
#include "orchard/review.hpp"

namespace orchard::cli {
namespace {

// The same name may begin with another value in another command.
const OptionFacts& facts_of(std::string_view option, std::string_view command) {
  const auto table = option_table();
  const auto own = std::ranges::find_if(table, [&](const OptionFacts& facts) {
    return facts.name == option && facts.belongs_to(command);
  });
  return own != table.end() ? *own : *std::ranges::find(table, option, &OptionFacts::name);
}

int terminal_width() {
  constexpr int usual = 100;
  winsize size{};
  if (::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0) return size.ws_col;
  return usual;
}

// Text locales other than UTF-8 cannot show the frames.
bool locale_is_utf8() {
  for (const char* name : {"LC_ALL", "LC_CTYPE", "LANG"}) {
    const char* value = std::getenv(name);
    if (value == nullptr || *value == '\0') continue;
    std::string text(value);
    std::ranges::transform(text, text.begin(), [](unsigned char c) { return std::tolower(c); });
    return text.find("utf-8") != std::string::npos || text.find("utf8") != std::string::npos;
  }
  return false;
}

}  // namespace

std::optional<std::uint64_t> parse_bytes(std::string_view text) {
  std::uint64_t value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{}) return std::nullopt;
  const std::string_view unit(end, static_cast<std::size_t>(text.data() + text.size() - end));
  if (unit.empty()) return value;
  constexpr std::string_view units = "KMGT";
  const std::size_t power = units.find(static_cast<char>(std::toupper(unit.front())));
  if (unit.size() != 1 || power == std::string_view::npos) return std::nullopt;
  const unsigned shift = 10 * (static_cast<unsigned>(power) + 1);
  if (value > (~std::uint64_t{0} >> shift)) return std::nullopt;
  return value << shift;
}

std::optional<std::string> Call::text(std::string_view option) const {
  const auto given = values.find(option);
  if (given != values.end() && !given->second.empty()) return given->second.back();
  if (option == "form" || option == "question") return std::nullopt;  // no options, but arguments
  const std::string_view initial = facts_of(option, command).initial;
  return initial.empty() ? std::nullopt : std::optional(std::string(initial));
}

std::vector<std::string> Call::texts(std::string_view option) const {
  const auto given = values.find(option);
  return given == values.end() ? std::vector<std::string>{} : given->second;
}

std::optional<std::uint64_t> Call::number(std::string_view option) const {
  const auto value = text(option);
  return value ? parse_bytes(*value) : std::nullopt;
}

std::optional<double> Call::seconds(std::string_view option) const {
  const auto value = text(option);
  return value ? std::optional(std::strtod(value->c_str(), nullptr)) : std::nullopt;
}

std::optional<std::string> Call::claims_file() const {
  if (const auto given = text("claims")) return *given == "none" ? std::nullopt : given;
  const auto beside = std::filesystem::path(game).replace_extension(".claims");
  std::error_code ignored;
  if (!std::filesystem::exists(beside, ignored)) return std::nullopt;
  return beside.string();
}

Budget Call::budget() const {
  Budget budget;
  budget.stop = stop;
  budget.seconds = seconds("seconds");
  const auto takes = [this](std::string_view option) {
    return std::ranges::any_of(option_table(), [&](const OptionFacts& facts) {
      return facts.name == option && facts.belongs_to(command);
    });
  };
  if (takes("checkpoint")) {
    if (const auto folder = text("checkpoint"))
      budget.checkpoint = {*folder, *seconds("save-every")};
  }
  const bool counts_positions = takes("positions");
  if (counts_positions) budget.positions = number("positions");
  if (takes("memory")) {
    budget.memory_bytes = number("memory");
    if (!budget.memory_bytes) budget.memory_bytes = half_of_memory();
  }
  if (!flag("quiet") && ::isatty(STDERR_FILENO) != 0) {
    budget.progress = [what = counts_positions      ? "positions"
                              : command == "series" ? "matches"
                              : command == "learn"  ? "games"
                                                    : "plies"](const Progress& at) {
      remark("\r\x1b[K{} {}, {:.0f} a second", at.done, what,
             static_cast<double>(at.done) / at.seconds);
      if (at.depth > 0) remark(", depth {}", at.depth);
      if (at.bytes > 0) remark(", {:.0f} MB", static_cast<double>(at.bytes) * 1e-6);
    };
  }
  return budget;
}

std::size_t terminal_height() {
  winsize size{};
  const bool known = ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_row > 0;
  return known ? size.ws_row : static_cast<std::size_t>(-1);
}

TextStyle Call::style() const {
  TextStyle style;
  const bool terminal = ::isatty(STDOUT_FILENO) != 0;
  const char* no_colour = std::getenv("NO_COLOR");
  style.unicode = !flag("ascii") && locale_is_utf8();
  style.colour = terminal && (no_colour == nullptr || *no_colour == '\0');
  if (terminal) style.width = terminal_width();
  style.turned = flag("turn");
  return style;
}

LoadOptions Call::limits() const {
  LoadOptions limits;
  limits.file_bytes = *number("file-bytes");
  limits.nesting = *number("nesting");
  limits.symbols = *number("symbols");
  limits.forms = *number("forms");
  limits.instances = *number("instances");
  limits.join_steps = *number("join-steps");
  limits.circuit_bytes = number("circuit-memory");
  limits.circuit_seconds = *seconds("circuit-seconds");
  limits.stop = stop;
  if (const auto depth = number("term-depth")) {
    limits.term_depth = static_cast<std::uint32_t>(*depth);
  }
  return limits;
}

Status report(const Call& call, const Diagnostics& diagnostics) {
  if (diagnostics.empty()) throw std::logic_error("a failure without a reason");
  if (call.json()) {
    print_json(Json{{"diagnostics", document_of(diagnostics)}});
  } else {
    std::fflush(stdout);
    write_error(diagnostics.render());
  }
  return diagnostics.only_limits() ? Status::unfinished : Status::wrong_call;
}

Status report(const Call& call, const Interrupted& interrupted) {
  Diagnostic fault = cut_short(interrupted.ending, "there is nothing to say yet");
  fault.place.file = call.game;
  return report(call, fault);
}

Status after_side_files(Status status, const Diagnostics& faults) {
  if (faults.empty()) return status;
  write_error(faults.render());
  return status == Status::done ? Status::unfinished : status;
}

Diagnostics unusable_outputs(const Call& call) {
  Diagnostics faults;
  for (const OptionFacts& option : option_table()) {
    if (option.kind != OptionFacts::Kind::output || !option.belongs_to(call.command)) continue;
    if (const auto file = call.text(option.name)) faults.append(check_writable(*file));
  }
  return faults;
}

Result<LoadOptions> load_options(const Call& call) {
  LoadOptions options = call.limits();
  // Random games are played without a circuit, too: half of the time is kept for them.
  const auto for_all = call.seconds("seconds");
  if (call.command == "playouts" && for_all) {
    options.circuit_seconds = std::min(options.circuit_seconds, *for_all / 2);
  }
  for (const std::string& text : call.texts("set")) {
    const std::size_t equals = text.find('=');
    const auto value = equals == std::string::npos
                           ? std::nullopt
                           : Term::constant(text.substr(equals + 1)).number();
    if (!value) {
      return plain_error("wrong-call", fmt::format("--set {} does not give a size a number", text),
                         "write --set NAME=NUMBER");
    }
    std::string name = text.substr(0, equals);
    std::ranges::transform(name, name.begin(), [](unsigned char c) { return std::tolower(c); });
    options.sizes[name] = *value;
  }
  return options;
}

namespace {

Game with_circuit(const Call& call, const Game& game, const std::vector<Position>& from,
                  CircuitReach reach, const Budget& budget) {
  if (call.number("circuit-memory") == 0u || has_circuit(game)) return game;
  const auto reached = with_reached_circuit(game, budget, from, reach);
  if (!reached) return game;
  const auto plies = circuit_plies(*reached);
  if (plies) {
    remark(
        "{}: the rules have no circuit, and not every position could be looked at: what follows is "
        "about the first {}\n",
        call.game, counted(*plies, "ply", "plies"));
  } else if (!call.flag("quiet")) {
    remark(
        "{}: the rules have no circuit of their own; one was made of all positions that can be "
        "reached\n",
        call.game);
  }
  return *reached;
}

Budget budget_of(const Call& call) {
  Budget budget;
  budget.stop = call.stop;
  budget.seconds = call.seconds("seconds");
  return budget;
}

}  // namespace

Game game_to_explore(const Call& call, const Game& game, const std::vector<Position>& from,
                     CircuitReach reach) {
  return with_circuit(call, game, from, reach, budget_of_reaching(budget_of(call)));
}

Result<LoadOptions> load_options_for_strangers(const Call& call) {
  constexpr std::uint64_t usual_circuit = std::uint64_t{1} << 30;
  constexpr std::uint64_t usual_steps = 200'000'000;
  auto limits = load_options(call);
  if (!limits) return limits;
  if (!call.flag("circuit-memory")) limits->circuit_bytes = usual_circuit;
  if (!call.flag("join-steps")) limits->join_steps = usual_steps;
  return limits;
}

std::optional<Game> load_game(const Call& call) {
  auto options = load_options(call);
  if (!options) {
    report(call, options.diagnostics());
    return std::nullopt;
  }
  auto game = Game::load(call.game, *options);
  if (!game) {
    report(call, game.diagnostics());
    return std::nullopt;
  }
  const Diagnostics& findings = game->findings();
  if (findings.empty() || call.flag("quiet")) return *game;
  if (call.flag("verbose")) {
    remark("{}", findings.render());
    return *game;
  }
  std::set<std::string> codes;
  for (const Diagnostic& finding : findings) codes.insert(finding.code);
  std::string list;
  for (const std::string& code : codes) list += (list.empty() ? "" : ", ") + code;
  const std::size_t count = findings.items().size() + findings.left_out();
  remark("{}: {} suspicious finding{}: {} (--verbose shows {})\n", call.game, count,
         count == 1 ? "" : "s", list, count == 1 ? "it" : "them");
  return *game;
}

std::string drawing_file(const Call& call) {
  // Of commands that draw nothing, for the positions that they read.
  const auto given = call.values.find("drawing");
  if (given != call.values.end()) return given->second.back() == "none" ? "" : given->second.back();
  const std::string beside = std::filesystem::path(call.game).replace_extension(".draw").string();
  std::error_code ignored;  // loading the rules says what is wrong
  return std::filesystem::exists(beside, ignored) ? beside : std::string();
}

Result<Picture> load_picture(const Call& call, const Game& game) {
  const std::string file = drawing_file(call);
  return file.empty() ? Picture(game) : Picture::load(game, file);
}

std::optional<Picture> picture_of(const Call& call, const Game& game) {
  auto picture = load_picture(call, game);
  if (!picture) {
    report(call, picture.diagnostics());
    return std::nullopt;
  }
  const Diagnostics& findings = picture->findings();
  if (!findings.empty() && !call.flag("quiet")) remark("{}", findings.render());
  return *picture;
}

std::optional<Opened> open_game(const Call& call) {
  const auto game = load_game(call);
  if (!game) return std::nullopt;
  const auto given = call.text("position");
  if (!given) return Opened{*game, game->initial()};
  // FILE:NAME, but a file of that whole name comes first.
  std::string file = *given;
  std::string name;
  const std::size_t colon = given->rfind(':');
  if (colon != std::string::npos && ::access(given->c_str(), F_OK) != 0) {
    file = given->substr(0, colon);
    name = given->substr(colon + 1);
  }
  // Boards are read by the drawing rules that they are drawn by, made only if there is one.
  const auto reader = [&](const std::string& drawing, const std::vector<Term>& fluents) {
    const std::string rules = drawing_file(call);
    auto picture = rules.empty() ? Result<Picture>(Picture(*game)) : Picture::load(*game, rules);
    return picture ? picture->read_drawn(drawing, fluents)
                   : Result<Position>(picture.diagnostics());
  };
  auto position = read_position(*game, file, name, reader);
  if (!position) {
    report(call, position.diagnostics());
    return std::nullopt;
  }
  if (!call.flag("quiet")) {
    for (Diagnostic doubt : doubts_about(*game, *position)) {
      doubt.place.file = file;
      remark("{}", render(doubt));
    }
  }
  return Opened{*game, *position};
}

namespace {

// The same position of the same game with a circuit.
Opened moved_to(const Game& game, const Position& start) {
  return {game, game.position(start.fluents()).value()};
}

}  // namespace

bool circuit_takes_too_long(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  return core.lanes_or_guided() == nullptr && !core.lanes_fault().empty() &&
         core.lanes_fault().items().front().code == "too-slow";
}

// So few positions that time never decides on any machine which random numbers are drawn.
Opened ready_to_play_at_random(const Call& call, const Opened& opened) {
  if (circuit_takes_too_long(opened.game)) return opened;
  Budget budget = budget_of_reaching(budget_of(call));
  budget.positions = 2'000;
  return moved_to(
      with_circuit(call, opened.game, {opened.start}, CircuitReach::every_position, budget),
      opened.start);
}

Opened ready_to_explore(const Call& call, const Opened& opened) {
  return moved_to(game_to_explore(call, opened.game, {opened.start}), opened.start);
}

std::optional<Opened> open_game_to_explore(const Call& call) {
  const auto opened = open_game(call);
  return opened ? std::optional(ready_to_explore(call, *opened)) : std::nullopt;
}

namespace {
constexpr std::uint64_t most_random_plies = 1'000'000;
}  // namespace

std::optional<Line> line_of_call(const Call& call, const Game& game, const Position& start) {
  const std::string after = *call.text("after");
  Result<Line> line = Line{{start}, {}};
  if (after.find_first_not_of("0123456789") == std::string::npos) {
    WalkOptions options;
    options.seed = *call.number("seed");
    options.plies = call.number("after").value_or(0);
    options.from = start;
    if (!call.number("after") || options.plies > most_random_plies) {
      report(call, plain_error("wrong-call", fmt::format("--after {} is out of range", after),
                               fmt::format("allowed are 0 to {}", most_random_plies)));
      return std::nullopt;
    }
    Line walked{{}, {}};
    if (options.plies > 0) {
      const auto done = random_walk(game, options, [&](const WalkStep& step) {
        walked.positions.push_back(step.position);
        if (step.joint) walked.joints.push_back(*step.joint);
        return true;
      });
      line = done ? Result<Line>(walked) : Result<Line>(done.diagnostics());
    }
  } else {
    line = play_line(game, start, after, *call.number("seed"));
  }
  if (line) return *line;
  report(call, line.diagnostics());
  return std::nullopt;
}

std::optional<Role> viewing_role(const Call& call, const Game& game) {
  const auto name = call.text("view");
  return name ? game.role(tidied(*name)) : std::nullopt;
}

bool check_view(const Call& call, const Game& game) {
  const auto role = call.text("view");
  if (role ? viewing_role(call, game).has_value() : !call.flag("deduced")) return true;
  std::string list;
  for (const Role& one : game.roles()) list += (list.empty() ? "" : ", ") + one.name();
  Diagnostics faults;
  faults.add(plain_error("wrong-call",
                         role ? fmt::format("--view {}: there is no such role", *role)
                              : "--deduced needs --view: what follows depends on who looks",
                         "the roles are " + list));
  report(call, faults);
  return false;
}

std::string_view remark_on(Ending ending) {
  switch (ending) {
    case Ending::complete:
      return "complete";
    case Ending::time:
      return "ended by --seconds";
    case Ending::positions:
      return "ended by --positions";
    case Ending::memory:
      return memory_ran_out() ? "out of memory" : "ended by --memory";
    case Ending::depth:
      return "deeper ones were not looked at";
    case Ending::stopped:
      return "interrupted";
  }
  return "ended";
}

Status status_of(Ending ending) {
  return ending == Ending::complete ? Status::done : Status::unfinished;
}

}  // namespace orchard::cli
