package dachshund.core.formula;

/** A formula that cannot be read. The message is a sentence; the place is where in the text the trouble begins and ends. */
public final class FormulaProblem extends Exception {

    private final int from;
    private final int to;

    /**
     * @param from first character of the trouble, counted from 0
     * @param to   first character after it
     */
    public FormulaProblem(String sentence, int from, int to) {
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
