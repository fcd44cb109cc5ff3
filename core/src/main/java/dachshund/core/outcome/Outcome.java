package dachshund.core.outcome;

/** What became of a row. One type feeds the ledger, Watch, drills and benchmarks. */
public enum Outcome {
    /** Committed in its destination. */
    LANDED,
    /** Safe on local disk, waiting for its destination. */
    HELD,
    /** Refused for its content; kept with the reason. */
    SET_ASIDE,
    /** Due but not made: the tick was more than a period late, the layout says to skip, or it was discarded while it was held. */
    SKIPPED,
    /** Could not be taken: the journal is full or its disk failed. */
    REFUSED
}
