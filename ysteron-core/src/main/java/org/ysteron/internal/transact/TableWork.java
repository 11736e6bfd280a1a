package org.ysteron.internal.transact;

import java.util.List;
import org.ysteron.internal.seen.KeyTest;
import org.ysteron.internal.seen.MovedRows;
import org.ysteron.internal.seen.SeenTable;
import org.ysteron.option.Alteration;

/**
 * What a transaction did to a table, as the commit needs it.
 *
 * @param table the table as the transaction sees it
 * @param reads what it read
 * @param keyTests what has to be tested again beside what came since
 * @param alterations how it altered columns, constraints and layout
 * @param isAltered whether it altered anything, settings included
 * @param moved where it moved rows of other files to
 * @param isFinal whether nobody can make its rows again, so that those refused are refused for good
 */
record TableWork(
    SeenTable table,
    List<Read> reads,
    List<KeyTest> keyTests,
    List<Alteration> alterations,
    boolean isAltered,
    MovedRows moved,
    boolean isFinal) {}
