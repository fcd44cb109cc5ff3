package dachshund.core.work;

/** What long work tells of itself while it goes on, so that a person can see how far it is and end it where that is safe. */
public interface Progress {

    /** Nobody listens, nobody ends it. */
    Progress UNHEARD = new Progress() {
        @Override
        public void step(String words, long of, boolean mayEnd) {}

        @Override
        public void done(long n) {}
    };

    /**
     * The next step begins.
     *
     * @param words  what is done in it, such as "Checking what would follow"
     * @param of     how many things it goes through; 0 where nobody knows
     * @param mayEnd whether nothing is half done when the work ends within this step
     * @throws Ended where somebody has asked for the end and the step before allowed it
     */
    void step(String words, long of, boolean mayEnd);

    /**
     * So many things of this step are done.
     *
     * @throws Ended where somebody has asked for the end and this step allows it
     */
    void done(long n);

    /** Somebody has ended the work; nothing of it is to be done any more. */
    final class Ended extends RuntimeException {
        private static final long serialVersionUID = 1;

        public Ended() {
            super("It was ended before it was done.");
        }
    }
}
