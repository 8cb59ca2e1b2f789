#include "cli/seats.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "base/file.hpp"
#include "base/similar.hpp"
#include "base/utf8.hpp"
#include "cli/move_input.hpp"
#include "cli/output.hpp"

namespace orchard::cli {

std::optional<Diagnostic> fault_in_name(const std::string& name) {
  const std::string shown = safe_for_terminal(name);
  if (shown == name) return std::nullopt;
  return plain_error("wrong-call", fmt::format("{} cannot be shown as it is", shown),
                     "give a name without control characters");
}

Diagnostics assign_to_roles(const Call& call, const Game& game, const std::string& option,
                            std::map<std::string, std::string>& values) {
  Diagnostics faults;
  std::vector<std::string> roles;
  for (const Role& role : game.roles()) roles.push_back(role.name());
  for (const std::string& text : call.texts(option)) {
    const std::size_t equals = text.find('=');
    std::string role = tidied(text.substr(0, equals));
    if (equals == std::string::npos || std::ranges::find(roles, role) == roles.end()) {
      std::string list;
      for (const std::string& name : roles) list += (list.empty() ? "" : ", ") + name;
      const auto meant = most_similar(role, roles);
      faults.add(
          plain_error("wrong-call", fmt::format("--{} {}: there is no such role", option, text),
                      meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("write --{} ROLE=…; the roles are {}", option, list)));
      continue;
    }
    if (auto fault = fault_in_name(text.substr(equals + 1))) {
      faults.add(std::move(*fault));
      continue;
    }
    values[role] = text.substr(equals + 1);
  }
  return faults;
}

namespace {

void add_player(std::vector<NamedPlayer>& players, const std::string& who, std::string name) {
  const auto taken = std::ranges::count_if(players, [&](const NamedPlayer& player) {
    return player.name == name || player.name.starts_with(name + " ");
  });
  if (taken > 0) name += fmt::format(" {}", taken + 1);
  players.push_back({name, who});
}

}  // namespace

Result<std::vector<NamedPlayer>> players_of(const Call& call, const Game& game) {
  std::map<std::string, std::string> seats;
  std::map<std::string, std::string> names;
  Diagnostics faults = assign_to_roles(call, game, "seat", seats);
  faults.append(assign_to_roles(call, game, "name", names));
  if (!faults.empty()) return faults;
  const std::vector<std::string> given = call.texts("player");
  if (!given.empty() && !(seats.empty() && names.empty())) {
    return plain_error("wrong-call", "--player names players, --seat and --name who sits where",
                       "use --player, or --seat and --name");
  }
  std::vector<NamedPlayer> players;
  for (const std::string& player : given) {
    if (auto fault = fault_in_name(player)) return *fault;
    const std::size_t equals = player.find('=');
    const std::string who = equals == std::string::npos ? player : player.substr(equals + 1);
    add_player(players, who, equals == std::string::npos ? who : player.substr(0, equals));
  }
  for (const Role& role : game.roles()) {
    if (role.is_chance() || !given.empty()) continue;
    const std::string who = seats[role.name()].empty() ? "random" : seats[role.name()];
    add_player(players, who, names[role.name()].empty() ? who : names[role.name()]);
  }
  return players;
}

Result<std::string> read_table(const std::string& file) {
  std::ifstream stream(file);
  std::ostringstream text;
  text << stream.rdbuf();
  if (!stream) {
    return plain_error("cannot-read", fmt::format("cannot read {}", file), "check its name");
  }
  return text.str();
}

namespace {

// A player that names a file: of what kind it is, and which file.
struct NamedFile {
  std::string kind;
  std::string file;
};

// learned:FILE, solved:FILE, rules:FILE; or lookahead… and playouts… with @FILE behind them.
std::optional<NamedFile> file_of(const std::string& who) {
  for (const std::string kind : {"learned", "solved", "rules"}) {
    if (who.starts_with(kind + ":")) return NamedFile{kind, who.substr(kind.size() + 1)};
  }
  const std::size_t at = who.find('@');
  if (at == std::string::npos) return std::nullopt;
  return NamedFile{who.substr(0, at), who.substr(at + 1)};
}

Result<OpponentMaker> by_table(const Game& game, const std::string& file) {
  const auto table = read_table(file);
  if (!table) return table.diagnostics();
  if (const auto made = learned_player(game, *table, 1); !made) return made.diagnostics();
  return OpponentMaker([game, text = *table](std::uint64_t seed) {
    return learned_player(game, text, seed).value();
  });
}

Result<OpponentMaker> by_solution(const Game& game, const std::string& file) {
  const auto solution = Solution::kept(file, game);
  if (!solution) return solution.diagnostics();
  return OpponentMaker(
      [kept = *solution](std::uint64_t seed) { return solved_opponent(kept, seed); });
}

Result<OpponentMaker> by_rules(const Game& game, const std::string& kind, const std::string& file) {
  const auto rules = OpponentRules::load(game, file);
  if (!rules) return rules.diagnostics();
  remark("{}", rules->findings().render());
  if (const auto made = make_opponent(kind, 1, *rules); !made) return made.diagnostics();
  return OpponentMaker([kind, kept = *rules](std::uint64_t seed) {
    return make_opponent(kind, seed, kept).value();
  });
}

}  // namespace

bool names_a_file(const std::string& who) {
  return file_of(who).has_value();
}

Result<FilePlayer> player_from_file(const Game& game, const std::string& who) {
  const auto named = file_of(who);
  if (!named) return FilePlayer{};
  const auto maker = named->kind == "learned"  ? by_table(game, named->file)
                     : named->kind == "solved" ? by_solution(game, named->file)
                                               : by_rules(game, named->kind, named->file);
  if (!maker) return maker.diagnostics();
  return FilePlayer{*maker, digest_of_file(named->file)};
}

namespace {

// Passes everything on to a player that learns, and writes its table down.
class LearningSeat : public Opponent {
 public:
  LearningSeat(LearningPlayer player, std::string file, FileLock lock)
      : player_(std::move(player)), file_(std::move(file)), lock_(std::move(lock)) {}
  ~LearningSeat() override {
    if (learnt_) write();
  }
  LearningSeat(const LearningSeat&) = delete;
  LearningSeat& operator=(const LearningSeat&) = delete;

  std::string name() const override { return player_.opponent->name(); }
  Move choose(const Situation& at) override { return player_.opponent->choose(at); }
  void match_ended(const Game& game, const Role& role, const Position& last) override {
    player_.opponent->match_ended(game, role, last);
    learnt_ = true;
    using std::chrono::steady_clock;
    constexpr std::chrono::seconds between{1};
    if (steady_clock::now() - written_ < between) return;
    write();
    written_ = steady_clock::now();
  }

 private:
  void write() {
    const Diagnostics faults = write_whole_file(file_, player_.table());
    if (!faults.empty() && !told_) remark("{}", faults.render());
    told_ = !faults.empty();
    learnt_ = false;
  }

  LearningPlayer player_;
  std::string file_;
  FileLock lock_;
  bool learnt_ = false;  // since the file was written
  bool told_ = false;    // that it cannot be
  std::chrono::steady_clock::time_point written_{};
};

}  // namespace

Result<std::unique_ptr<Opponent>> learning_from_file(const Game& game, const Role& role,
                                                     const std::string& who, std::uint64_t seed) {
  constexpr std::string_view kind = "learning:";
  if (!who.starts_with(kind)) return std::unique_ptr<Opponent>();
  const std::string file = who.substr(kind.size());
  if (Diagnostics faults = check_writable(file); !faults.empty()) return faults;
  auto lock = FileLock::take(file, "wait until it has ended, or give each seat a table of its own");
  if (!lock) return lock.diagnostics();
  std::string text;
  std::error_code ignored;  // reading says what is wrong
  if (std::filesystem::exists(file, ignored)) {
    const auto read = read_table(file);
    if (!read) return read.diagnostics();
    text = *read;
  }
  auto player = learning_player(game, role, text, seed);
  if (!player) return player.diagnostics();
  return std::unique_ptr<Opponent>(
      std::make_unique<LearningSeat>(std::move(player).value(), file, std::move(lock).value()));
}

Result<OpponentMaker> maker_of(const Game& game, const std::string& who) {
  auto player = player_from_file(game, who);
  if (!player) return player.diagnostics();
  if (player->make) return player->make;
  if (const auto made = make_opponent(who, 1); !made) return made.diagnostics();
  return OpponentMaker([who](std::uint64_t seed) { return make_opponent(who, seed).value(); });
}

void print_caveat(const Call& call, const std::string& who, const Game& game) {
  const auto caveat = call.flag("quiet") ? std::nullopt : opponent_caveat(who, game);
  if (caveat) remark("note: {}\n", *caveat);
}

Result<std::unique_ptr<Opponent>> opponent_of(const Game& game, const Role& role,
                                              const std::string& who, std::uint64_t seed) {
  if (auto learning = learning_from_file(game, role, who, seed); !learning || *learning) {
    return learning;
  }
  const auto player = player_from_file(game, who);
  if (!player) return player.diagnostics();
  return player->make ? Result<std::unique_ptr<Opponent>>(player->make(seed))
                      : make_opponent(who, seed);
}

}  // namespace orchard::cli
