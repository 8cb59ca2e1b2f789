#include "circuit/executor.hpp"

namespace orchard::circuit {

std::string_view name_of(Executor::Kind kind) {
  return kind == Executor::Kind::avx512 ? "avx512" : "interpreter";
}

std::unique_ptr<Executor> make_executor(const LaneProgram& program,
                                        std::optional<Executor::Kind> kind) {
  if (kind == Executor::Kind::interpreter) return make_interpreter(program);
  auto machine_code = make_avx512(program);
  if (machine_code || kind) return machine_code;
  return make_interpreter(program);
}

}  // namespace orchard::circuit
