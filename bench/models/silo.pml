/* Silo as a model for a general explicit-state model checker: the crates of who is to move and those
   of both, a bit a place with a guard bit above each bin. Sizes by -DHEIGHTS=5 -DBINS=5. Every state
   is a position: a move is one step, and what is worked out on the way is no part of the state. */

#define STRIDE (HEIGHTS + 1)
#define FULL ((1 << HEIGHTS) - 1)
#define bin(b) ((both >> ((b) * STRIDE)) & FULL)

int mover;
int both;
bit over;

hidden int target;
hidden int crate;
hidden int own;
hidden int filled;
hidden int wider;
hidden byte chain;

inline drop(b) {
  d_step {
    (!over && bin(b) != FULL);
    target = b;
    if
    :: (b > 0 && bin(b - 1) < bin(b)) -> target = b - 1
    :: (!(b > 0 && bin(b - 1) < bin(b)) && b < BINS - 1 && bin(b + 1) < bin(b)) -> target = b + 1
    :: else -> skip
    fi;
    crate = (bin(target) + 1) << (target * STRIDE);
    own = mover | crate;
    both = both | crate;
    mover = both & ~own;
    wider = own & (own >> STRIDE);
    chain = ((wider & (wider >> (2 * STRIDE))) != 0);
    filled = own & FULL;
    do
    :: (chain || filled == 0) -> break
    :: else ->
      if
      :: ((filled >> ((BINS - 1) * STRIDE)) != 0) -> chain = 1
      :: else ->
        wider = (filled | (filled << 1) | (filled >> 1) | (filled << STRIDE) |
                (filled >> STRIDE)) & own;
        if
        :: (wider == filled) -> filled = 0
        :: else -> filled = wider
        fi
      fi
    od;
    over = (chain || bin(0) == FULL && bin(1) == FULL && bin(2) == FULL && bin(3) == FULL
#if BINS > 4
            && bin(4) == FULL
#endif
           )
  }
}

active proctype play() {
end:
  do
  :: drop(0)
  :: drop(1)
  :: drop(2)
  :: drop(3)
#if BINS > 4
  :: drop(4)
#endif
  od
}
