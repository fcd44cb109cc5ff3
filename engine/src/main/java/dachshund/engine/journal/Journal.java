package dachshund.engine.journal;

import java.util.List;
import java.util.function.LongSupplier;

/**
 * What is on its way out, on local disk between being made and being settled: one log per destination, healthy or not.
 * An entry belongs to a lane and carries that lane's running number, so that what is missing can be counted. A position
 * only grows, also over restarts, damage and losses. Appending is safe from many threads; reading and releasing belong to
 * one writer.
 */
public interface Journal extends AutoCloseable {

    /** The journal takes no more; the message is a sentence that says why. */
    final class Full extends Exception {
        private static final long serialVersionUID = 1;

        public Full(String sentence) {
            super(sentence, null, false, false);
        }
    }

    /** What an entry is. Later kinds get letters of their own; a reader passes over what it does not know and says so. */
    enum Kind {
        /** A design under which entries were made; its body is the design's {@link Design#key} and its document. */
        DESIGN('D'),
        /** A row for a table or file. */
        ROW('R'),
        /** Values for the archive; their design is the list of tags of the rule that keeps them. */
        VALUES('V'),
        /** A message to a person or program; its design is the rule it was made under. */
        NOTICE('N'),
        /** A run for the ledger. */
        RUN('L');

        private final char letter;

        Kind(char letter) {
            this.letter = letter;
        }

        public char letter() {
            return letter;
        }
    }

    /**
     * What entries are made under, known by its content: the same document has the same key wherever it is read.
     *
     * @param key      the first 8 bytes of the document's SHA-256
     * @param document a definition as JSON, UTF-8
     */
    record Design(long key, byte[] document) {}

    /**
     * One entry that was read.
     *
     * @param position     where it begins
     * @param next         where the next begins
     * @param installation who made it, six hexadecimal digits
     * @param lane         whose it is
     * @param nth          counts the entries of the lane from 1; 0 for designs
     * @param kind         a letter of {@link Kind}, or one of a later version
     * @param version      version of the body's form
     */
    record Entry(
            long position,
            long next,
            String installation,
            String lane,
            long nth,
            char kind,
            int version,
            byte[] body) {}

    /** Takes entries in order from a position on; sees only what is on disk for certain. */
    interface Reader {

        /** The next entry, or null where nothing more is durable yet. */
        Entry next();

        /** Where the next entry will be looked for. */
        long position();
    }

    /**
     * A stretch of the log and what it holds of a lane.
     *
     * @param first   position of the lane's first entry there
     * @param last    position of its last one
     * @param nth     running number of the first
     * @param lastNth running number of the last
     * @param entries fewer than the numbers say where some were altered on disk
     */
    record Stretch(long first, long last, long nth, long lastNth, long entries) {}

    /**
     * Appends one entry; it is durable a little later, see {@link #durable}.
     *
     * @param design what it is made under; written with it where the log does not have it near
     * @return the entry's running number in its lane
     */
    long append(String lane, Kind kind, int version, Design design, byte[] body) throws Full;

    /** The running number of the last entry of a lane, 0 where there is none. */
    long last(String lane);

    /** {@link #last} of one lane, for who asks often. */
    default LongSupplier lastOf(String lane) {
        return () -> last(lane);
    }

    /** Entries of the lane go on counting from here at least: what is known elsewhere of a log that was lost. */
    void atLeast(String lane, long nth);

    /** Every lane that has entries here. */
    List<String> lanes();

    /** What the log holds of a lane, in order; no file is read for it. */
    List<Stretch> stretches(String lane);

    /** Everything before this position is on disk for certain. */
    long durable();

    /** The first position that is still there. */
    long first();

    Reader read(long from);

    /** Nothing before the position is needed any more; its space is given back soon. */
    void release(long upTo);

    /** Bytes on disk. */
    long size();

    /** Entries that could not be read back because the disk altered them, since the start, in a sentence each; newest last. */
    List<String> damage();

    /** Makes what was appended durable and ends. */
    @Override
    void close();
}
