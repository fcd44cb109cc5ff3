package dachshund.office.person;

/** Who acts at this moment on this thread, and from which page of theirs. */
public interface Acting {

    /** Name of the person; "dachshund" where nobody does and the application acts by itself. */
    String who();

    /** Each page that is loaded draws a name of its own; empty where nobody knows. */
    String page();
}
