// The description, its board and all that can be asked of it, on a page: `orchard desk`.
#include "desk/server.hpp"

#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/output.hpp"

namespace orchard::cli {

Status desk(const Call& call) {
  const auto options = load_options(call);
  if (!options) return report(call, options.diagnostics());
  desk::Desk desk(call.game, *options);
  desk::Server server(desk);
  const int port = static_cast<int>(call.number("port").value_or(0));
  if (const Diagnostics faults = server.listen_on(port); !faults.empty()) {
    return report(call, faults);
  }
  print("the desk for {} is at\n   {}\n", call.game, server.address());
  print("open it in a browser on this machine; an interrupt ends it\n");
  // Writes what is waiting; an address that nobody can read is of no use.
  if (output_fault()) return Status::done;
  server.run(call.stop);
  return Status::done;
}

}  // namespace orchard::cli
