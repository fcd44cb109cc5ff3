package dachshund.core.reader;

/**
 * A query that cannot be asked. The message is a sentence that says what to do; the place, where one is known, is where in its
 * text.
 */
public final class QueryProblem extends Exception {

    private static final long serialVersionUID = 1;

    private final int from;
    private final int to;

    /**
     * @param from first character of the trouble, counted from 0; -1 where no place is known
     * @param to   first character behind it
     */
    public QueryProblem(String sentence, int from, int to) {
        super(sentence);
        this.from = from;
        this.to = to;
    }

    public QueryProblem(String sentence) {
        this(sentence, -1, -1);
    }

    public int from() {
        return from;
    }

    public int to() {
        return to;
    }
}
