// Clocks and stop tokens of nested scopes, and the threads that work under them.
#include "base/interruption.hpp"

#include <gtest/gtest.h>

#include <set>
#include <thread>

#include "threads/crew.hpp"
#include "threads/ordered_crew.hpp"

namespace orchard::interruption_test {
namespace {

Budget of_seconds(double seconds) {
  Budget budget;
  budget.seconds = seconds;
  return budget;
}

Budget stopped_by(const std::stop_source& source) {
  Budget budget;
  budget.stop = source.get_token();
  return budget;
}

TEST(Interruption, OfAnyScopeAroundCounts) {
  EXPECT_EQ(Interruption::asked(), std::nullopt);
  std::stop_source source;
  const Interruption outer(stopped_by(source));
  {
    const Interruption inner(of_seconds(1e9));
    EXPECT_EQ(Interruption::asked(), std::nullopt);
    source.request_stop();
    EXPECT_EQ(Interruption::asked(), Ending::stopped);
    EXPECT_THROW(end_if_interrupted(), Interrupted);
  }
  EXPECT_EQ(Interruption::asked(), Ending::stopped);
}

TEST(Interruption, EndsWithItsScope) {
  {
    const Interruption spent(of_seconds(0));
    EXPECT_EQ(Interruption::asked(), Ending::time);
    // Budgets within say so, too, whatever they are themselves.
    const Budget free;
    EXPECT_EQ(Stopwatch(free).check(0), Ending::time);
  }
  EXPECT_EQ(Interruption::asked(), std::nullopt);
  EXPECT_NO_THROW(end_if_interrupted());
}

TEST(Interruption, PointsInShortLoopsAskEverySoOften) {
  const Interruption spent(of_seconds(0));
  InterruptionPoint point(3);
  EXPECT_NO_THROW(point.pass());
  EXPECT_NO_THROW(point.pass());
  EXPECT_THROW(point.pass(), Interrupted);
}

TEST(Interruption, LeavesTimeForLastWords) {
  const Interruption spent(of_seconds(0));
  const LastWords last;
  EXPECT_EQ(Interruption::asked(), std::nullopt);
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  EXPECT_EQ(Interruption::asked(), Ending::time);
}

TEST(Crew, WorksUnderTheInterruptionOfWhoeverGivesTheWork) {
  Crew crew(3);
  const auto work = [&] {
    crew.work(6, [](std::size_t, std::size_t) {
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
      end_if_interrupted();
    });
  };
  EXPECT_NO_THROW(work());
  {
    const Interruption spent(of_seconds(0));
    EXPECT_THROW(work(), Interrupted);
  }
  EXPECT_NO_THROW(work());
}

TEST(Crew, HandsOnWhatAJobThrows) {
  for (const std::size_t failing : {0, 1, 5, 19}) {
    Crew crew(4);
    std::atomic<int> done = 0;
    EXPECT_THROW(crew.work(20,
                           [&](std::size_t, std::size_t job) {
                             if (job == failing) throw std::bad_alloc();
                             ++done;
                           }),
                 std::bad_alloc);
    EXPECT_LE(done, 19);
    // And works on afterwards.
    std::atomic<int> again = 0;
    crew.work(20, [&](std::size_t, std::size_t) { ++again; });
    EXPECT_EQ(again, 20);
  }
}

TEST(Crew, GivesEveryWorkerTheSame) {
  Crew crew(4);
  std::vector<int> called(crew.workers());
  crew.all([&](std::size_t number) { ++called.at(number); });
  EXPECT_EQ(called, std::vector<int>(crew.workers(), 1));
}

TEST(OrderedCrew, HandsOnWhatAJobThrowsWhereItsResultIsTaken) {
  struct Worker {};
  for (const unsigned threads : {1u, 3u}) {
    OrderedCrew<Worker, int, int> crew(
        threads, [] { return std::make_unique<Worker>(); },
        [](Worker&, int job, int& result) {
          if (job == 1) throw std::bad_alloc();
          result = job * job;
        });
    std::vector<int> taken;
    int thrown = 0;
    for (int job = 0; job < 5; ++job) {
      crew.give(job);
      try {
        taken.push_back(crew.take());
      } catch (const std::bad_alloc&) {
        ++thrown;
        if (threads == 1) break;  // whoever works for itself has not taken it
      }
    }
    EXPECT_EQ(thrown, 1);
    EXPECT_EQ(taken.front(), 0);
    if (threads > 1) {
      EXPECT_EQ(taken, (std::vector<int>{0, 4, 9, 16}));
    }
  }
}

}  // namespace
}  // namespace orchard::interruption_test
