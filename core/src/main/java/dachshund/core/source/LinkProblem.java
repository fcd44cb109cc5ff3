package dachshund.core.source;

/** A source did not do what it was asked. The message is a sentence for a person. */
public class LinkProblem extends Exception {

    public LinkProblem(String sentence, Throwable cause) {
        super(sentence, cause);
    }

    public LinkProblem(String sentence) {
        super(sentence);
    }
}
