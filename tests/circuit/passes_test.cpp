// Every pass from network to lane program on the demo games and random networks: the same outputs,
// and what it is for. And what happens where the system allows no code pages.
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <linux/audit.h>
#include <linux/filter.h>
#include <linux/seccomp.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/syscall.h>

#include <cstddef>

#include "circuit/lanes/equivalence.hpp"
#include "circuit/lanes/executor.hpp"
#include "circuit/lanes/mapping.hpp"
#include "circuit/lanes/two_inputs.hpp"
#include "circuit/programs/position_programs.hpp"
#include "support/files.hpp"

namespace orchard::circuit::passes_test {
namespace {

GameNetwork network_of(const char* game) {
  Diagnostics none;
  const auto description = rules::Description::build(
      syntax::Source::from_file(testing::game_path(game)).value(), {}, none);
  return build_network(*ground::GroundProgram::make(description, {}).value());
}

TEST(Passes, KeepWhatIsComputed) {
  for (const char* const game : {"espalier", "channel", "graft", "hedgerow"}) {
    const GameNetwork network = network_of(game);
    std::vector<Signal> outputs = network.next;
    outputs.push_back(network.terminal);
    for (const auto& legal : network.legal)
      outputs.insert(outputs.end(), legal.begin(), legal.end());
    std::vector<Signal> of_pairs = outputs;
    const Network pairs = in_pairs(network.network, of_pairs);
    EXPECT_TRUE(same_on_random_inputs(network.network, outputs, pairs, of_pairs, 16)) << game;
    const LaneProgram lanes = map_to_lanes(pairs, of_pairs);
    EXPECT_TRUE(same_on_random_inputs(pairs, of_pairs, lanes, 16)) << game;
    EXPECT_LT(lanes.operations.size(), pairs.gates()) << game;
    const LaneProgram two = in_two_inputs(lanes);
    EXPECT_TRUE(same_on_random_inputs(lanes, two, 16)) << game;
    for (const LaneOperation& operation : two.operations) {
      EXPECT_TRUE(operation.a == operation.b || operation.table == 0 || operation.table == 0xFF);
    }
  }
}

TEST(Passes, AnyFunctionOfThreeInTwoInputs) {
  for (unsigned table = 0; table < 256; ++table) {
    LaneProgram program;
    program.inputs = program.state_inputs = 3;
    program.operations = {{0, 1, 2, static_cast<std::uint8_t>(table)}};
    program.outputs = {3};
    const LaneProgram two = in_two_inputs(program);
    EXPECT_TRUE(same_on_random_inputs(program, two, 8)) << table;
    EXPECT_LE(two.operations.size(), 6u) << table;
  }
}

// The watch itself: a wrong function is noticed.
TEST(Passes, ADifferenceIsSeen) {
  Network network;
  const Signal a = network.add_input();
  const Signal b = network.add_input();
  const std::vector<Signal> both{network.both(a, b)};
  const std::vector<Signal> either{network.either(a, b)};
  EXPECT_TRUE(same_on_random_inputs(network, both, network, both));
  EXPECT_FALSE(same_on_random_inputs(network, both, network, either));
  LaneProgram program = map_to_lanes(network, both);
  EXPECT_TRUE(same_on_random_inputs(network, both, program));
  const LaneProgram right = program;
  program.operations.back().table ^= 0xFF;
  EXPECT_FALSE(same_on_random_inputs(network, both, program));
  EXPECT_FALSE(same_on_random_inputs(right, program));
}

// From here on this process gets no pages that can be executed.
void forbid_code_pages() {
  constexpr auto third_argument = offsetof(seccomp_data, args) + 2 * sizeof(std::uint64_t);
  sock_filter filter[] = {
      BPF_STMT(BPF_LD | BPF_W | BPF_ABS, offsetof(seccomp_data, nr)),
      BPF_JUMP(BPF_JMP | BPF_JEQ | BPF_K, SYS_mprotect, 0, 3),
      BPF_STMT(BPF_LD | BPF_W | BPF_ABS, third_argument),
      BPF_JUMP(BPF_JMP | BPF_JSET | BPF_K, PROT_EXEC, 0, 1),
      BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_ERRNO | EACCES),
      BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_ALLOW),
  };
  sock_fprog program{std::size(filter), filter};
  if (prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0) != 0 ||
      prctl(PR_SET_SECCOMP, SECCOMP_MODE_FILTER, &program) != 0) {
    std::exit(77);
  }
}

TEST(ExecutorDeathTest, WithoutCodePagesTheInterpreterTakesOver) {
  const auto body = [] {
    forbid_code_pages();
    const GameNetwork network = network_of("espalier_3x3");
    const PositionPrograms programs = make_position_programs(network);
    const auto executor = make_executor(programs.position);
    if (make_executor(programs.position, Executor::Kind::avx512) != nullptr) std::exit(1);
    if (make_executor(programs.position, Executor::Kind::avx2) != nullptr) std::exit(2);
    std::exit(executor->kind() == Executor::Kind::interpreter ? 0 : 3);
  };
  EXPECT_EXIT(
      body(),
      [](int status) {
        // 77: this system has no such filters, so there is nothing to try.
        return WIFEXITED(status) && (WEXITSTATUS(status) == 0 || WEXITSTATUS(status) == 77);
      },
      "");
}

// A program may have no inputs at all: a constant reads nothing.
TEST(Passes, AConstantOfNoInputs) {
  const Network network;
  const std::vector<Signal> outputs{always, never};
  const LaneProgram program = map_to_lanes(network, outputs);
  EXPECT_TRUE(same_on_random_inputs(network, outputs, program, 4));
}

}  // namespace
}  // namespace orchard::circuit::passes_test
