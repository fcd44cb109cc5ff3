package dachshund.core.transaction;

import dachshund.core.destination.StoreProblem;
import java.time.Duration;
import java.util.List;
import java.util.Optional;

/** A database in which business is done: connections of its own, beside those of rows and readers. From any thread. */
public interface Transacting extends AutoCloseable {

    /**
     * @param mark  whether requests will be claimed there, for which a table is made where there is none
     * @param limit all of it gets so long at most; zero where whoever begins it breaks it off by itself, which costs less
     */
    Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem;

    /** What was told of a request; empty where it is not done. */
    Optional<Session.Told> told(String transaction, String request) throws StoreProblem;

    /**
     * Requests whose commit is followed by something that is not known to be done.
     *
     * @param most how many, the oldest first
     */
    List<Left> left(String transaction, int most) throws StoreProblem;

    /** One of them. */
    record Left(String request, Session.Told told) {}

    /**
     * Some of the requests that were done so long ago, by the clock of the database, and are done wholly.
     *
     * @param days at least 1
     */
    List<String> doneBefore(String transaction, int days, int most) throws StoreProblem;

    /**
     * Removes their marks, in one transaction.
     *
     * @param requests at least one
     * @return how many there were
     */
    int forget(String transaction, List<String> requests) throws StoreProblem;

    /** What followed the commit of a request is done, and this is what it is answered with from now on. */
    void followed(String transaction, String request, Session.Told told) throws StoreProblem;

    @Override
    void close();
}
