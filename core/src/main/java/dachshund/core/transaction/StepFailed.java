package dachshund.core.transaction;

import dachshund.core.destination.StoreProblem;
import java.util.Optional;

/** A step could not be done. The message is a sentence. */
public final class StepFailed extends Exception {

    private static final long serialVersionUID = 1;

    private final transient StepRun step;
    private final transient Optional<StoreProblem.Kind> kind;

    StepFailed(StepRun step, Optional<StoreProblem.Kind> kind, Throwable cause) {
        super(step.said(), cause);
        this.step = step;
        this.kind = kind;
    }

    public StepRun step() {
        return step;
    }

    /** What the database says of it; empty where it was not the database. */
    public Optional<StoreProblem.Kind> kind() {
        return kind;
    }
}
