package dachshund.office.definition;

/** Which of what is designed is meant. */
public enum Standing {
    /** As it is drafted, else as it is released: for whoever designs. */
    DRAFTED,
    /** As it is released, whatever is drafted: for everybody else. */
    RELEASED
}
