// Counting every reachable position: the engine against explorers written by hand for one game,
// against a general explicit-state model checker with a model written by hand (the package spin, if
// it is installed), and against itself on positions as they are; one thread each, interleaved, in
// processor time.
//
//   bench_exploration [ROUNDS]
//   bench_exploration threads [ROUNDS]
//
// The second compares two threads with one, by the clock, where positions have bits and where they
// are coded in runs; its largest count takes 4 GB.
//
// An explorer by hand goes breadth first over positions packed into one number, with the hash set
// of a well-kept library and no duplicates kept across layers where none can be. Every line checks
// that the counts of positions and ends agree.
#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>
#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <bit>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <functional>
#include <optional>
#include <string_view>

#include "baselines/silo.hpp"
#include "orchard/orchard.hpp"
#include "thread_seconds.hpp"

namespace orchard::bench {
namespace {

struct Count {
  std::uint64_t positions = 0;
  std::uint64_t ends = 0;
  std::uint64_t peak_bytes = 0;
  friend bool operator==(const Count& a, const Count& b) {
    return a.positions == b.positions && a.ends == b.ends;
  }
};

// Both gardeners' crates as bit columns with a guard bit above each; a position is the crates of
// who is to move, the crates of both, added to one number that tells heights and owners apart.
template <int heights, int bins>
Count explore_silo() {
  using Rules = Silo<heights, bins, void>;
  constexpr int stride = Rules::stride;
  static_assert(stride * bins <= 63);
  constexpr auto bottom = [] {
    std::uint64_t mask = 0;
    for (int b = 0; b < bins; ++b) mask |= std::uint64_t{1} << (b * stride);
    return mask;
  }();
  // Mover's crates plus the heights as a bit above the highest crate: one number for each position.
  const auto key = [&](std::uint64_t mover, std::uint64_t both) { return mover + both + bottom; };
  struct Position {
    std::uint64_t mover;
    std::uint64_t both;
  };
  Count count;
  std::vector<Position> layer{{0, 0}};
  std::vector<bool> ended;
  absl::flat_hash_set<std::uint64_t> reached;
  for (bool over = false; !layer.empty(); over = true) {
    std::vector<Position> next;
    reached.clear();
    count.positions += layer.size();
    for (const Position& at : layer) {
      const std::uint64_t other = at.both ^ at.mover;
      if ((over && Rules::wins(other)) || at.both == Rules::board()) {
        ++count.ends;
        continue;
      }
      std::array<int, bins + 2> height{};
      height.front() = height.back() = heights + 2;
      for (int b = 0; b < bins; ++b) {
        height[static_cast<std::size_t>(b + 1)] = std::popcount(at.both & Rules::bin_mask(b));
      }
      for (int chosen = 1; chosen <= bins; ++chosen) {
        const int here = height[static_cast<std::size_t>(chosen)];
        if (here == heights) continue;
        int bin = chosen;
        if (height[static_cast<std::size_t>(chosen - 1)] < here) {
          bin = chosen - 1;
        } else if (height[static_cast<std::size_t>(chosen + 1)] < here) {
          bin = chosen + 1;
        }
        const std::uint64_t crate = std::uint64_t{1}
                                    << ((bin - 1) * stride + height[static_cast<std::size_t>(bin)]);
        const Position after{other, at.both | crate};
        if (reached.insert(key(after.mover, after.both)).second) next.push_back(after);
      }
    }
    count.peak_bytes = std::max<std::uint64_t>(
        count.peak_bytes,
        reached.capacity() * 9 + (layer.capacity() + next.capacity()) * sizeof(Position));
    layer = std::move(next);
  }
  return count;
}

// The model checker on a model of silo: every state exactly stored, safety only.
class ModelChecker {
 public:
  ModelChecker()
      : folder_(std::filesystem::temp_directory_path() / fmt::format("explore.{}", ::getpid())),
        installed_(std::system("command -v spin gcc > /dev/null 2>&1") == 0) {
    std::filesystem::create_directories(folder_);
  }
  ~ModelChecker() { std::filesystem::remove_all(folder_); }
  ModelChecker(const ModelChecker&) = delete;

  static constexpr const char* compile = "gcc -O3 -DSAFETY -DNOREDUCE -DNOFAIR -DMEMLIM=16000";
  static constexpr const char* options = "-m1000 -w24 -E";

  bool prepare(int heights, int bins) {
    if (!installed_) return false;
    const std::string command = fmt::format(
        "cd {} && spin -a -DHEIGHTS={} -DBINS={} {}/silo.pml > /dev/null && {} -o pan pan.c 2> "
        "/dev/null",
        folder_.string(), heights, bins, ORCHARD_MODELS_FOLDER, compile);
    return std::system(command.c_str()) == 0;
  }
  // Its processor time is that of the children of this process.
  Count run() {
    const std::string command = fmt::format("cd {} && ./pan {}", folder_.string(), options);
    Count count;
    std::FILE* const output = ::popen(command.c_str(), "r");
    if (output == nullptr) return count;
    std::array<char, 400> line{};
    while (std::fgets(line.data(), static_cast<int>(line.size()), output) != nullptr) {
      double number = 0;
      if (std::strstr(line.data(), "states, stored") != nullptr) {
        count.positions = std::strtoull(line.data(), nullptr, 10);
      } else if (std::strstr(line.data(), "total actual memory usage") != nullptr &&
                 std::sscanf(line.data(), "%lf", &number) == 1) {
        count.peak_bytes = static_cast<std::uint64_t>(number * 1e6);
      }
    }
    ::pclose(output);
    return count;
  }

 private:
  const std::filesystem::path folder_;
  const bool installed_;
};

double children_seconds() {
  rusage usage{};
  ::getrusage(RUSAGE_CHILDREN, &usage);
  const auto seconds = [](const timeval& time) {
    return static_cast<double>(time.tv_sec) + 1e-6 * static_cast<double>(time.tv_usec);
  };
  return seconds(usage.ru_utime) + seconds(usage.ru_stime);
}

struct Subject {
  const char* name;
  int heights;
  int bins;
  std::function<Count()> by_hand;
};

Count of(const Census& census) {
  Count count{census.positions, 0, census.peak_bytes};
  for (const CensusDepth& row : census.depths) count.ends += row.terminal;
  return count;
}

struct Timed {
  std::vector<double> seconds;
  Count count;
  void run(const std::function<Count()>& what, double (*clock)() = thread_seconds) {
    const double begin = clock();
    count = what();
    seconds.push_back(clock() - begin);
  }
  double median() const {
    std::vector<double> sorted = seconds;
    std::ranges::sort(sorted);
    return sorted[sorted.size() / 2];
  }
};

double median_ratio(const Timed& of, const Timed& by) {
  Timed ratios;
  for (std::size_t i = 0; i < of.seconds.size(); ++i) {
    ratios.seconds.push_back(of.seconds[i] / by.seconds[i]);
  }
  return ratios.median();
}

int run(int rounds) {
  const Subject subjects[] = {
      {"silo 4×4", 4, 4, explore_silo<4, 4>},
      {"silo 4×5", 4, 5, explore_silo<4, 5>},
      {"silo 5×5", 5, 5, explore_silo<5, 5>},
  };
  fmt::print("nanoseconds of one core a position; {} rounds, medians; bytes a position at most\n\n",
             rounds);
  fmt::print("{:<10} {:>11} {:>14} {:>22} {:>22} {:>22}\n", "game", "positions", "engine",
             "by hand", "model checker", "plain positions");
  bool all_same = true;
  ModelChecker checker;
  for (const Subject& subject : subjects) {
    LoadOptions load;
    load.sizes = {{"heights", subject.heights}, {"bins", subject.bins}};
    const Game game = Game::load(std::string(ORCHARD_GAMES_FOLDER) + "/silo.gdl", load).value();
    const auto census = [&](CensusStore store) {
      CensusOptions options;
      options.store = store;
      return of(take_census(game, options).value());
    };
    census(CensusStore::automatic);  // what is made once for a game is not what is measured
    const bool checks = checker.prepare(subject.heights, subject.bins);
    Timed engine;
    Timed hand;
    Timed model;
    Timed plain;
    for (int round = 0; round < rounds; ++round) {
      engine.run([&] { return census(CensusStore::automatic); });
      hand.run(subject.by_hand);
      if (checks) model.run([&] { return checker.run(); }, children_seconds);
      plain.run([&] { return census(CensusStore::plain); });
    }
    const bool same = engine.count == hand.count && engine.count == plain.count &&
                      (!checks || model.count.positions == engine.count.positions);
    all_same = all_same && same;
    const auto n = static_cast<double>(engine.count.positions);
    const auto cost = [&](const Timed& timed) {
      return fmt::format("{:.0f} ns {:>4.0f} B", 1e9 * timed.median() / n,
                         static_cast<double>(timed.count.peak_bytes) / n);
    };
    const auto against = [&](const Timed& timed) {
      return fmt::format("{} {:>5.1f}×", cost(timed), median_ratio(timed, engine));
    };
    fmt::print("{:<10} {:>11} {:>14} {:>22} {:>22} {:>22}  {}\n", subject.name,
               engine.count.positions, cost(engine), against(hand),
               checks ? against(model) : "not installed", against(plain),
               same ? "same counts" : "DIFFERENT");
  }
  fmt::print("\nmodel checker: {}; pan {}\n", ModelChecker::compile, ModelChecker::options);
  return all_same ? 0 : 1;
}

double clock_seconds() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

int compare_threads(int rounds) {
  struct Case {
    const char* name;
    const char* file;
    LoadOptions load;
    std::optional<std::uint64_t> depth;
  };
  const Case cases[] = {
      {"silo 5×5", "silo", {}, std::nullopt},
      {"silo 6×5", "silo", {.sizes = {{"heights", 6}}}, std::nullopt},
      {"scarecrow, to depth 24", "scarecrow", {}, 24},
  };
  fmt::print("seconds by the clock, set-up included; {} rounds, medians\n\n", rounds);
  fmt::print("{:<24} {:>11} {:>10} {:>11}\n", "game", "positions", "1 thread", "2 threads");
  bool all_same = true;
  for (const Case& counted : cases) {
    const Game game =
        Game::load(fmt::format("{}/{}.gdl", ORCHARD_GAMES_FOLDER, counted.file), counted.load)
            .value();
    const auto census = [&](unsigned threads) {
      CensusOptions options;
      options.threads = threads;
      options.depth = counted.depth;
      options.budget.memory_bytes = std::uint64_t{8} << 30;
      return of(take_census(game, options).value());
    };
    Timed one;
    Timed two;
    bool same = true;
    for (int round = 0; round < rounds; ++round) {
      one.run([&] { return census(1); }, clock_seconds);
      two.run([&] { return census(2); }, clock_seconds);
      same = same && one.count == two.count;
    }
    all_same = all_same && same;
    fmt::print("{:<24} {:>11} {:>10.2f} {:>11.2f}  {:.2f}×  {}\n", counted.name,
               one.count.positions, one.median(), two.median(), median_ratio(one, two),
               same ? "same counts" : "DIFFERENT");
  }
  return all_same ? 0 : 1;
}

}  // namespace
}  // namespace orchard::bench

int main(int argument_count, char** arguments) {
  const bool threads = argument_count > 1 && std::string_view(arguments[1]) == "threads";
  const int at = threads ? 2 : 1;
  const int rounds = std::max(argument_count > at ? std::atoi(arguments[at]) : 3, 1);
  return threads ? orchard::bench::compare_threads(rounds) : orchard::bench::run(rounds);
}
