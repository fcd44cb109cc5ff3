package dachshund.office.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Transacting;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.function.UnaryOperator;

/** A process that dies at the nth thing it does to the world: nothing of what it would do later is done. */
final class Dying {

    private final int at;
    private final boolean hangs;
    private final AtomicInteger done = new AtomicInteger();

    Dying(int at) {
        this(at, false);
    }

    private Dying(int at, boolean hangs) {
        this.at = at;
        this.hangs = hangs;
    }

    /** One whose threads stand still for ever, so that it does not even hear that it has died. */
    static Dying still(int at) {
        return new Dying(at, true);
    }

    boolean dead() {
        return done.get() >= at;
    }

    private void live() {
        if (done.incrementAndGet() >= at) {
            while (hangs) {
                LockSupport.park();
                Thread.interrupted(); // who is dead hears nothing; interrupted, it would turn in circles for ever
            }
            throw new IllegalStateException("dead");
        }
    }

    /** The same controller, which hears no more of who is dead. */
    Bed.Controller beside(Bed.Controller controller) {
        return controller.until(tag -> live());
    }

    /** The process that will die: when it is over nobody waits for what it was about to do. */
    Bed bed(Bed.Engine engine, Path own, Bed.Controller controller) {
        return new Bed(engine, own, beside(controller), this::before).dies();
    }

    Transacting before(Transacting database) {
        return new Through(database) {
            @Override
            Session with(Session session) {
                return new Steps(session) {
                    @Override
                    void next() {
                        live();
                    }
                };
            }

            @Override
            public Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem {
                live();
                return super.begin(isolation, mark, limit);
            }

            @Override
            public void followed(String transaction, String request, Session.Told told) throws StoreProblem {
                live();
                super.followed(transaction, request, told);
            }
        };
    }

    /** The answer to the first commit is lost; whether it was carried out is said here. */
    static UnaryOperator<Transacting> atCommit(boolean carriedOut) {
        return atCommit(carriedOut, new StoreProblem(StoreProblem.Kind.AWAY, -1, "The connection broke.", null));
    }

    /** @param lost what is thrown in its place: a StoreProblem, or what a driver may throw */
    static UnaryOperator<Transacting> atCommit(boolean carriedOut, Exception lost) {
        AtomicInteger commits = new AtomicInteger();
        return database -> new Through(database) {
            @Override
            Session with(Session session) {
                return new Steps(session) {
                    @Override
                    public void commit() throws StoreProblem {
                        if (commits.incrementAndGet() > 1) {
                            super.commit();
                            return;
                        }
                        if (carriedOut) {
                            super.commit();
                        }
                        if (lost instanceof StoreProblem problem) {
                            throw problem;
                        }
                        throw (RuntimeException) lost;
                    }
                };
            }
        };
    }

    /** Throws it at the nth call, once, and goes on as if nothing had been. */
    static UnaryOperator<Transacting> throwing(int nth, RuntimeException thrown) {
        AtomicInteger calls = new AtomicInteger();
        Runnable next = () -> {
            if (calls.incrementAndGet() == nth) {
                throw thrown;
            }
        };
        return database -> new Through(database) {
            @Override
            Session with(Session session) {
                return new Steps(session) {
                    @Override
                    void next() {
                        next.run();
                    }
                };
            }

            @Override
            public Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem {
                next.run();
                return super.begin(isolation, mark, limit);
            }

            @Override
            public Optional<Session.Told> told(String transaction, String request) throws StoreProblem {
                next.run();
                return super.told(transaction, request);
            }

            @Override
            public void followed(String transaction, String request, Session.Told told) throws StoreProblem {
                next.run();
                super.followed(transaction, request, told);
            }
        };
    }

    /** A database whose table of marks can never be made. */
    static UnaryOperator<Transacting> withoutMarks() {
        return database -> new Through(database) {
            @Override
            Session with(Session session) {
                return session;
            }

            @Override
            public Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem {
                throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "The table cannot be made.", null);
            }
        };
    }

    /** The first commits fail and are not carried out; then all is well. */
    static UnaryOperator<Transacting> refusingCommits(int first) {
        AtomicInteger commits = new AtomicInteger();
        return refusingCommits(() -> commits.incrementAndGet() <= first);
    }

    /** No commit is carried out before all is well. */
    static UnaryOperator<Transacting> refusingCommits(CountDownLatch well) {
        return refusingCommits(() -> well.getCount() > 0);
    }

    private static UnaryOperator<Transacting> refusingCommits(BooleanSupplier refused) {
        return database -> new Through(database) {
            @Override
            Session with(Session session) {
                return new Steps(session) {
                    @Override
                    public void commit() throws StoreProblem {
                        if (refused.getAsBoolean()) {
                            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "The connection broke.", null);
                        }
                        super.commit();
                    }
                };
            }
        };
    }

    /** What is left is found, and told only once somebody lets it be told. */
    static UnaryOperator<Transacting> tellingLate(CountDownLatch asked, CountDownLatch told) {
        AtomicInteger looks = new AtomicInteger();
        return database -> new Through(database) {
            @Override
            Session with(Session session) {
                return session;
            }

            @Override
            public List<Left> left(String transaction, int most) throws StoreProblem {
                List<Left> found = super.left(transaction, most);
                if (looks.incrementAndGet() == 1) {
                    asked.countDown();
                    try {
                        told.await();
                    } catch (InterruptedException stopped) {
                        Thread.currentThread().interrupt();
                    }
                }
                return found;
            }
        };
    }

    /** A database that answers nobody before it is back. */
    static UnaryOperator<Transacting> away(CountDownLatch back) {
        return database -> new Through(database) {
            @Override
            Session with(Session session) {
                return session;
            }

            @Override
            public Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem {
                if (back.getCount() > 0) {
                    throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "It does not answer.", null);
                }
                return super.begin(isolation, mark, limit);
            }
        };
    }

    private abstract static class Through implements Transacting {
        private final Transacting database;

        Through(Transacting database) {
            this.database = database;
        }

        abstract Session with(Session session);

        @Override
        public Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem {
            return with(database.begin(isolation, mark, limit));
        }

        @Override
        public Optional<Session.Told> told(String transaction, String request) throws StoreProblem {
            return database.told(transaction, request);
        }

        @Override
        public List<Left> left(String transaction, int most) throws StoreProblem {
            return database.left(transaction, most);
        }

        @Override
        public List<String> doneBefore(String transaction, int days, int most) throws StoreProblem {
            return database.doneBefore(transaction, days, most);
        }

        @Override
        public int forget(String transaction, List<String> requests) throws StoreProblem {
            return database.forget(transaction, requests);
        }

        @Override
        public void followed(String transaction, String request, Session.Told told) throws StoreProblem {
            database.followed(transaction, request, told);
        }

        @Override
        public void close() {
            database.close();
        }
    }

    private static class Steps implements Session {
        private final Session session;

        Steps(Session session) {
            this.session = session;
        }

        void next() {}

        @Override
        public boolean claim(String transaction, String request) throws StoreProblem {
            next();
            return session.claim(transaction, request);
        }

        @Override
        public void tell(String transaction, String request, Told told) throws StoreProblem {
            next();
            session.tell(transaction, request, told);
        }

        @Override
        public void leave(String transaction, String name, String line) throws StoreProblem {
            next();
            session.leave(transaction, name, line);
        }

        @Override
        public Optional<String> left(String transaction, String name) throws StoreProblem {
            next();
            return session.left(transaction, name);
        }

        @Override
        public Found ask(QueryText query, List<Object> values, int most) throws StoreProblem, QueryProblem {
            next();
            return session.ask(query, values, most);
        }

        @Override
        public Changed change(QueryText statement, List<Object> values) throws StoreProblem, QueryProblem {
            next();
            return session.change(statement, values);
        }

        @Override
        public void commit() throws StoreProblem {
            next();
            session.commit();
        }

        @Override
        public void breakOff() {
            session.breakOff();
        }

        @Override
        public void close() {
            session.close();
        }
    }

    /** What stands in the way of a write. */
    interface Gate {
        void before(TagRef tag);
    }
}
