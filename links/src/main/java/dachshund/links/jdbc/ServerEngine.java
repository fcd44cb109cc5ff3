package dachshund.links.jdbc;

import dachshund.core.sql.Dialect;

/** What engines that are servers have in common. */
public abstract class ServerEngine implements JdbcEngine {

    protected final Dialect dialect;
    protected final ServerSettings settings;
    /** Whether it is beside the destination's own database: where it is missing, that is the trouble of its tables alone. */
    protected final boolean beside;

    protected ServerEngine(Dialect dialect, ServerSettings settings, boolean beside) {
        this.dialect = dialect;
        this.settings = settings;
        this.beside = beside;
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public String database() {
        return settings.database();
    }

    @Override
    public String place() {
        return settings.place();
    }
}
