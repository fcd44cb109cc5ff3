package dachshund.core.window;

/** A window that cannot be read or resolved. The message is a sentence that says what to do; the place is where in the text. */
public final class WindowProblem extends Exception {

    private static final long serialVersionUID = 1;

    private final int from;
    private final int to;

    /**
     * @param from first character of the trouble, counted from 0
     * @param to   first character after it
     */
    WindowProblem(String sentence, int from, int to) {
        super(sentence);
        this.from = from;
        this.to = to;
    }

    public int from() {
        return from;
    }

    public int to() {
        return to;
    }
}
