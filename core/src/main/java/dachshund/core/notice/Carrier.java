package dachshund.core.notice;

import java.util.List;

/** Carries messages to where they are to go. */
public interface Carrier {

    /** A message that did not arrive. The text is a sentence for a person. */
    final class Undelivered extends Exception {
        private static final long serialVersionUID = 1;

        private final boolean forGood;

        /** @param forGood whether it would be refused again as it is; else it is tried again later */
        public Undelivered(String sentence, boolean forGood, Throwable cause) {
            super(sentence, cause);
            this.forGood = forGood;
        }

        public boolean forGood() {
            return forGood;
        }
    }

    /**
     * Carries one message; comes back within a minute, whatever the other side does.
     *
     * @param to every recipient
     * @throws Undelivered where somebody did not take it
     */
    void carry(List<String> to, Message message) throws Undelivered;
}
