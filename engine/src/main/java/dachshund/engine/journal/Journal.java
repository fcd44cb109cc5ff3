package dachshund.engine.journal;

/**
 * Rows on local disk between being made and being committed: one log per destination, healthy or not. A position is a
 * byte offset that only grows, also over restarts. Appending is safe from many threads; reading and releasing belong
 * to one writer.
 */
public interface Journal extends AutoCloseable {

    /** The journal takes no more; the message is a sentence that says why. */
    final class Full extends Exception {
        Full(String sentence) {
            super(sentence, null, false, false);
        }
    }

    /** One entry that was read: where it begins, where the next begins, and its bytes. */
    record Entry(long position, long next, byte[] bytes) {}

    /** Takes entries in order from a position on; sees only what is on disk for certain. */
    interface Reader {

        /** The next entry, or null where nothing more is durable yet. */
        Entry next();

        /** Where the next entry will be looked for. */
        long position();
    }

    /**
     * Appends one entry; it is durable a little later, see {@link #durable}.
     *
     * @return its position
     */
    long append(byte[] bytes) throws Full;

    /** Everything before this position is on disk for certain. */
    long durable();

    /** The first position that is still there. */
    long first();

    Reader read(long from);

    /** Nothing before the position is needed any more; its space is given back soon. */
    void release(long upTo);

    /** Bytes on disk. */
    long size();

    /** Entries that could not be read back because the disk altered them, since the start. */
    long damaged();

    /** Makes what was appended durable and ends. */
    @Override
    void close();
}
