package dachshund.core.destination;

/** A destination did not do what it was asked. The message is a sentence for a person. */
public class StoreProblem extends Exception {

    /** What kind of problem, which decides what is done next. */
    public enum Kind {
        /** It does not answer or cannot serve anyone now: wait and try again. */
        AWAY,
        /** The table or file is in somebody else's use: this lane waits and goes on by itself. */
        BUSY,
        /** Its transaction was given up for the sake of another one that it stood against: at once, by itself, it may pass. */
        CLASHED,
        /** The table is missing or forbidden: this lane waits, the others go on. */
        TABLE,
        /** A row was refused for what it holds: find it and set it aside. */
        CONTENT,
        /** A unique key was hit; on our own identity that means "landed already". */
        DUPLICATE,
        /** It failed for a reason that this version does not know: found by halving, tried again a few times, then set aside. */
        UNKNOWN
    }

    private final Kind kind;
    private final int batch;

    /** @param batch index of the batch that was refused, -1 where it is not about one */
    public StoreProblem(Kind kind, int batch, String sentence, Throwable cause) {
        super(sentence, cause);
        this.kind = kind;
        this.batch = batch;
    }

    public Kind kind() {
        return kind;
    }

    public int batch() {
        return batch;
    }
}
