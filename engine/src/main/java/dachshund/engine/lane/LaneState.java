package dachshund.engine.lane;

/** How a lane, or a recorder as a whole, stands. Later ones outweigh earlier ones where several lanes differ. */
public enum LaneState {
    /** Ready; no row has landed yet. */
    ARMED("Armed"),
    RECORDING("Recording"),
    /** Rows wait on disk because the destination is away. */
    HOLDING("Holding"),
    /** Something is wrong that waiting alone will not mend; rows wait on disk. */
    FAULTED("Faulted"),
    /** A person stopped it, or it stopped itself. */
    STOPPED("Stopped");

    private final String words;

    LaneState(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
