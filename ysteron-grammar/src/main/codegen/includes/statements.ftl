<#-- INSERT INTO table [(columns)] { DEFAULT VALUES | query }. -->
SqlNode InsertRows() :
{
  final Span s;
  final SqlIdentifier table;
  final Pair<SqlNodeList, SqlNodeList> named;
  final SqlNodeList columns;
  final SqlNode rows;
}
{
  <INSERT> { s = span(); } <INTO> table = CompoundTableIdentifier()
  (
    LOOKAHEAD(2)
    named = ParenthesizedCompoundIdentifierList() { columns = named.left; }
  |
    { columns = null; }
  )
  (
    LOOKAHEAD(2)
    <DEFAULT_> <VALUES> { rows = LakeOperators.DEFAULT_VALUES.createCall(getPos()); }
  |
    rows = OrderedQueryOrExpr(ExprContext.ACCEPT_QUERY)
  )
  { return new SqlInsert(s.end(rows), SqlNodeList.EMPTY, table, rows, columns); }
}

<#-- UPDATE table [[AS] alias] SET column = { expression | DEFAULT }, … [WHERE condition]. -->
SqlNode UpdateRows() :
{
  final Span s;
  final SqlIdentifier table;
  SqlIdentifier alias = null;
  final SqlNodeList columns;
  final SqlNodeList values;
  SqlNode where = null;
}
{
  <UPDATE> { s = span(); } table = CompoundTableIdentifier()
  [ [ <AS> ] alias = SimpleIdentifier() ]
  <SET> { columns = new SqlNodeList(getPos()); values = new SqlNodeList(getPos()); }
  SetColumns(columns, values)
  [ where = Where() ]
  {
    return new SqlUpdate(
        s.addAll(columns).addAll(values).addIf(where).pos(),
        table, columns, values, where, null, alias);
  }
}

void SetColumns(SqlNodeList columns, SqlNodeList values) :
{ }
{
  SetColumn(columns, values) ( <COMMA> SetColumn(columns, values) )*
}

void SetColumn(SqlNodeList columns, SqlNodeList values) :
{
  final SqlIdentifier column;
}
{
  column = CompoundIdentifier() { columns.add(column); }
  <EQ>
  (
    <DEFAULT_> { values.add(SqlStdOperatorTable.DEFAULT.createCall(getPos())); }
  |
    AddExpression(values, ExprContext.ACCEPT_SUB_QUERY)
  )
}

<#-- TRUNCATE TABLE table. -->
SqlNode TruncateTable() :
{
  final Span s;
  final SqlIdentifier table;
}
{
  <TRUNCATE> { s = span(); } <TABLE> table = CompoundIdentifier()
  { return LakeOperators.TRUNCATE.createCall(s.end(this), table); }
}

<#-- MERGE INTO table [[AS] alias] USING rows ON condition clauses. -->
SqlNode MergeRows() :
{
  final Span s;
  final SqlIdentifier table;
  SqlIdentifier alias = null;
  final SqlNode source;
  final SqlNode on;
  final SqlNodeList clauses;
}
{
  <MERGE> { s = span(); } <INTO> table = CompoundTableIdentifier()
  [ [ <AS> ] alias = SimpleIdentifier() ]
  <USING> source = TableRef()
  <ON> on = Expression(ExprContext.ACCEPT_SUB_QUERY) { clauses = new SqlNodeList(getPos()); }
  ( MergeClause(clauses) )+
  { return LakeOperators.MERGE.createCall(s.end(this), table, alias, source, on, clauses); }
}

<#-- WHEN [NOT] MATCHED [BY SOURCE | BY TARGET] [AND condition] THEN action. -->
void MergeClause(SqlNodeList clauses) :
{
  final Span s;
  final SqlOperator kind;
  SqlNode condition = null;
  final SqlNode action;
}
{
  <WHEN> { s = span(); }
  (
    <MATCHED> { kind = LakeOperators.WHEN_MATCHED; }
  |
    <NOT> <MATCHED>
    (
      LOOKAHEAD(2) <BY> <SOURCE> { kind = LakeOperators.WHEN_NOT_IN_SOURCE; }
    |
      [ <BY> <TARGET> ] { kind = LakeOperators.WHEN_NOT_MATCHED; }
    )
  )
  [ <AND> condition = Expression(ExprContext.ACCEPT_SUB_QUERY) ]
  <THEN> action = MergeAction()
  { clauses.add(kind.createCall(s.end(this), condition, action)); }
}

SqlNode MergeAction() :
{
  final Span s;
  SqlNodeList columns = null;
  final SqlNodeList values;
  final SqlNode row;
}
{
  <UPDATE> <SET>
  {
    s = span();
    columns = new SqlNodeList(getPos());
    values = new SqlNodeList(getPos());
  }
  SetColumns(columns, values)
  { return LakeOperators.UPDATE_ROW.createCall(s.end(this), columns, values); }
|
  <DELETE> { return LakeOperators.DELETE_ROW.createCall(getPos()); }
|
  <DO> { s = span(); } <NOTHING> { return LakeOperators.DO_NOTHING.createCall(s.end(this)); }
|
  <INSERT> { s = span(); }
  (
    <DEFAULT_> <VALUES>
    { return LakeOperators.INSERT_ROW.createCall(s.end(this), null, null); }
  |
    [ columns = ParenthesizedSimpleIdentifierList() ]
    <VALUES> values = ParenthesizedQueryOrCommaListWithDefault(ExprContext.ACCEPT_SUB_QUERY)
    { return LakeOperators.INSERT_ROW.createCall(s.end(this), columns, values); }
  )
}

<#-- CREATE TABLE [IF NOT EXISTS] name [(columns and constraints)] [LAYOUT …] [OPTIONS …] [AS query]. -->
SqlNode CreateTable() :
{
  final Span s;
  final SqlIdentifier name;
  boolean unlessThere = false;
  SqlNodeList elements = null;
  SqlNode layout = null;
  SqlNode options = null;
  SqlNode query = null;
}
{
  <CREATE> { s = span(); } <TABLE>
  [ LOOKAHEAD(3) <IF> <NOT> <EXISTS> { unlessThere = true; } ]
  name = CompoundIdentifier()
  [
    <LPAREN> { elements = new SqlNodeList(getPos()); }
    TableElement(elements) ( <COMMA> TableElement(elements) )*
    <RPAREN>
  ]
  [ layout = TableLayout() ]
  [ options = TableOptions() ]
  [ <AS> query = OrderedQueryOrExpr(ExprContext.ACCEPT_QUERY) ]
  {
    return LakeOperators.CREATE_TABLE.createCall(
        s.end(this),
        SqlLiteral.createBoolean(unlessThere, s.pos()),
        name, elements, layout, options, query);
  }
}

void TableElement(SqlNodeList elements) :
{
  final SqlNode element;
}
{
  (
    element = TableConstraint()
  |
    element = ColumnDefinition(new SqlNodeList(getPos()))
  )
  { elements.add(element); }
}

SqlNode TableConstraint() :
{
  final Span s = Span.of();
  SqlIdentifier name = null;
  final SqlNodeList columns;
  final SqlNode condition;
}
{
  [ <CONSTRAINT> { s.add(this); } name = SimpleIdentifier() ]
  (
    <CHECK> { s.add(this); } <LPAREN> condition = Expression(ExprContext.ACCEPT_SUB_QUERY) <RPAREN>
    { return LakeOperators.CHECK.createCall(s.end(this), name, condition); }
  |
    <UNIQUE> { s.add(this); } columns = ParenthesizedSimpleIdentifierList()
    { return LakeOperators.UNIQUE.createCall(s.end(this), name, columns); }
  |
    <PRIMARY> { s.add(this); } <KEY> columns = ParenthesizedSimpleIdentifierList()
    { return LakeOperators.PRIMARY_KEY.createCall(s.end(this), name, columns); }
  )
}

<#-- A column, or what is inside one: also element of an ARRAY, key and value of a MAP. -->
SqlIdentifier ColumnPath() :
{
  final List<String> names = new ArrayList<String>();
  final Span s;
  SqlIdentifier name;
}
{
  name = SimpleIdentifier() { names.add(name.getSimple()); s = Span.of(name); }
  (
    <DOT>
    (
      ( <ELEMENT> | <VALUE> ) { names.add(token.image); s.add(this); }
    |
      name = SimpleIdentifier() { names.add(name.getSimple()); s.add(name); }
    )
  )*
  { return new SqlIdentifier(names, s.pos()); }
}

<#-- path type, and what is said of the column, in any order. -->
SqlNode ColumnDefinition(SqlNodeList attributes) :
{
  final Span s;
  final SqlIdentifier column;
  final SqlDataTypeSpec type;
}
{
  column = ColumnPath() { s = span(); }
  type = DataType()
  ( ColumnAttribute(attributes) )*
  { return LakeOperators.COLUMN.createCall(s.end(this), column, type, attributes); }
}

void ColumnAttribute(SqlNodeList attributes) :
{
  final Span s = Span.of();
  SqlIdentifier name = null;
  final SqlNode value;
}
{
  <NULL>
|
  <NOT> { s.add(this); } <NULL> { attributes.add(LakeOperators.NOT_NULL.createCall(s.end(this))); }
|
  <DEFAULT_> { s.add(this); } value = Expression(ExprContext.ACCEPT_SUB_QUERY)
  { attributes.add(LakeOperators.DEFAULT.createCall(s.end(this), value)); }
|
  <PRIMARY> { s.add(this); } <KEY>
  { attributes.add(LakeOperators.PRIMARY_KEY.createCall(s.end(this), null, null)); }
|
  <UNIQUE> { attributes.add(LakeOperators.UNIQUE.createCall(getPos(), null, null)); }
|
  <COMMENT> { s.add(this); } value = StringLiteral()
  { attributes.add(LakeOperators.COMMENT.createCall(s.end(this), value)); }
|
  [ <CONSTRAINT> { s.add(this); } name = SimpleIdentifier() ]
  <CHECK> { s.add(this); } <LPAREN> value = Expression(ExprContext.ACCEPT_SUB_QUERY) <RPAREN>
  { attributes.add(LakeOperators.CHECK.createCall(s.end(this), name, value)); }
}

<#-- LAYOUT (rules); LAYOUT NONE. -->
SqlNode TableLayout() :
{
  final Span s;
  final SqlNodeList rules;
}
{
  <LAYOUT> { s = span(); rules = new SqlNodeList(getPos()); }
  (
    <NONE>
  |
    <LPAREN> LayoutRule(rules) ( <COMMA> LayoutRule(rules) )* <RPAREN>
  )
  { return LakeOperators.LAYOUT.createCall(s.end(this), (SqlNode) rules); }
}

void LayoutRule(SqlNodeList rules) :
{
  final Span s;
  final SqlIdentifier column;
  SqlNode number = null;
  SqlNode unit = null;
  final SqlNodeList groups;
  SqlIdentifier other;
  boolean descending = false;
}
{
  <RANGE> { s = span(); } column = ColumnPath()
  (
    <EVERY> number = UnsignedNumericLiteral() [ unit = LayoutUnit() ]
    { rules.add(LakeOperators.RANGE_EVERY.createCall(s.end(this), column, number, unit)); }
  |
    <AT> groups = LayoutValues()
    { rules.add(LakeOperators.RANGE_AT.createCall(s.end(this), column, groups)); }
  )
|
  <LIST> { s = span(); groups = new SqlNodeList(getPos()); } column = ColumnPath()
  [ <OF> LayoutGroup(groups) ( LOOKAHEAD(2) <COMMA> LayoutGroup(groups) )* ]
  { rules.add(LakeOperators.LIST.createCall(s.end(this), column, groups)); }
|
  <HASH> { s = span(); } column = ColumnPath() <INTO> number = UnsignedNumericLiteral()
  { rules.add(LakeOperators.HASH.createCall(s.end(this), column, number)); }
|
  <SORT> { s = span(); } column = ColumnPath()
  [ <ASC> | <DESC> { descending = true; } ]
  {
    rules.add(
        LakeOperators.SORT.createCall(
            s.end(this), column, SqlLiteral.createBoolean(descending, s.pos())));
  }
|
  <ALONG> { s = span(); groups = new SqlNodeList(getPos()); }
  <LPAREN> other = ColumnPath() { groups.add(other); }
  ( <COMMA> other = ColumnPath() { groups.add(other); } )+
  <RPAREN>
  { rules.add(LakeOperators.ALONG.createCall(s.end(this), (SqlNode) groups)); }
}

SqlNode LayoutUnit() :
{ }
{
  (
    <YEAR> | <YEARS> | <MONTH> | <MONTHS> | <DAY> | <DAYS> | <HOUR> | <HOURS> | <MINUTE> | <MINUTES>
  )
  { return SqlLiteral.createCharString(token.image, getPos()); }
}

void LayoutGroup(SqlNodeList groups) :
{
  final SqlNodeList values;
}
{
  values = LayoutValues() { groups.add(values); }
}

SqlNodeList LayoutValues() :
{
  final Span s;
  final SqlNodeList values;
  SqlNode value;
}
{
  <LPAREN> { s = span(); values = new SqlNodeList(getPos()); }
  value = Literal() { values.add(value); } ( <COMMA> value = Literal() { values.add(value); } )*
  <RPAREN> { return new SqlNodeList(values.getList(), s.end(this)); }
}

<#-- OPTIONS (name 'value', …), of a table that is there with SET, ADD or DROP before a name. -->
SqlNode TableOptions() :
{
  final Span s;
  final SqlNodeList options;
}
{
  <OPTIONS> { s = span(); options = new SqlNodeList(getPos()); }
  <LPAREN> TableOption(options) ( <COMMA> TableOption(options) )* <RPAREN>
  { return LakeOperators.OPTIONS.createCall(s.end(this), (SqlNode) options); }
}

void TableOption(SqlNodeList options) :
{
  final Span s;
  final SqlIdentifier name;
  final SqlNode value;
}
{
  LOOKAHEAD(<DROP>)
  <DROP> { s = span(); } name = CompoundIdentifier()
  { options.add(LakeOperators.OPTION.createCall(s.end(this), name, null)); }
|
  [ LOOKAHEAD(2) ( <SET> | <ADD> ) ] name = CompoundIdentifier() { s = span(); } value = Literal()
  { options.add(LakeOperators.OPTION.createCall(s.end(this), name, value)); }
}

<#-- DROP TABLE [IF EXISTS] name [RESTRICT]. -->
SqlNode DropTable() :
{
  final Span s;
  final SqlIdentifier table;
  boolean ifThere = false;
}
{
  <DROP> { s = span(); } <TABLE> [ LOOKAHEAD(2) <IF> <EXISTS> { ifThere = true; } ]
  table = CompoundIdentifier() [ <RESTRICT> ]
  {
    return LakeOperators.DROP_TABLE.createCall(
        s.end(this), SqlLiteral.createBoolean(ifThere, s.pos()), table);
  }
}

<#-- ALTER TABLE name action, …. -->
SqlNode AlterTable() :
{
  final Span s;
  final SqlIdentifier table;
  final SqlNodeList actions;
}
{
  <ALTER> { s = span(); } <TABLE> table = CompoundIdentifier()
  { actions = new SqlNodeList(getPos()); }
  AlterAction(actions) ( <COMMA> AlterAction(actions) )*
  { return LakeOperators.ALTER_TABLE.createCall(s.end(this), table, actions); }
}

void AlterAction(SqlNodeList actions) :
{
  final Span s;
  final SqlNode what;
  final SqlNodeList attributes;
  SqlNode place = null;
  final SqlIdentifier column;
  final SqlIdentifier name;
  final SqlNode action;
}
{
  <ADD> { s = span(); }
  (
    what = TableConstraint()
  |
    { attributes = new SqlNodeList(getPos()); }
    [ LOOKAHEAD(2) <COLUMN> ] what = ColumnDefinition(attributes)
    [ place = ColumnPlace() ( ColumnAttribute(attributes) )* ]
  )
  { actions.add(LakeOperators.ADD.createCall(s.end(this), what, place)); }
|
  <DROP> { s = span(); }
  (
    LOOKAHEAD(2)
    <CONSTRAINT> name = SimpleIdentifier()
    { actions.add(LakeOperators.DROP_CONSTRAINT.createCall(s.end(this), name)); }
  |
    LOOKAHEAD(2)
    <PRIMARY> <KEY> { actions.add(LakeOperators.DROP_KEY.createCall(s.end(this))); }
  |
    LOOKAHEAD(1, { getToken(1).kind == LAYOUT && getToken(2).kind != DOT })
    <LAYOUT>
    {
      actions.add(LakeOperators.LAYOUT.createCall(s.end(this), (SqlNode) SqlNodeList.EMPTY));
    }
  |
    [ LOOKAHEAD(2) <COLUMN> ] column = ColumnPath()
    { place = null; }
    [ <RESTRICT> | <CASCADE> { place = SqlLiteral.createBoolean(true, getPos()); } ]
    { actions.add(LakeOperators.DROP_COLUMN.createCall(s.end(this), column, place)); }
  )
|
  <ALTER> { s = span(); } [ LOOKAHEAD(2) <COLUMN> ] column = ColumnPath()
  action = ColumnChange(column)
  { actions.add(action); }
|
  <RENAME> { s = span(); }
  (
    <TO> name = CompoundIdentifier()
    { actions.add(LakeOperators.RENAME_TABLE.createCall(s.end(this), name)); }
  |
    [ LOOKAHEAD(2) <COLUMN> ] column = ColumnPath() <TO> name = SimpleIdentifier()
    { actions.add(LakeOperators.RENAME_COLUMN.createCall(s.end(this), column, name)); }
  )
|
  <MOVE> { s = span(); } [ LOOKAHEAD(2) <COLUMN> ] column = ColumnPath()
  place = ColumnPlace()
  { actions.add(LakeOperators.MOVE_COLUMN.createCall(s.end(this), column, place)); }
|
  what = TableLayout() { actions.add(what); }
|
  what = TableOptions() { actions.add(what); }
}

SqlNode ColumnPlace() :
{
  final Span s;
  final SqlIdentifier sibling;
}
{
  <FIRST> { return LakeOperators.FIRST.createCall(getPos()); }
|
  <LAST> { return LakeOperators.LAST.createCall(getPos()); }
|
  <AFTER> { s = span(); } sibling = SimpleIdentifier()
  { return LakeOperators.AFTER.createCall(s.end(this), sibling); }
|
  <BEFORE> { s = span(); } sibling = SimpleIdentifier()
  { return LakeOperators.BEFORE.createCall(s.end(this), sibling); }
}

SqlNode ColumnChange(SqlIdentifier column) :
{
  final Span s = Span.of(column);
  final SqlDataTypeSpec type;
  final SqlNode value;
}
{
  <SET>
  (
    <DATA> <TYPE> type = DataType()
    { return LakeOperators.SET_TYPE.createCall(s.end(this), column, type); }
  |
    <DEFAULT_> value = Expression(ExprContext.ACCEPT_SUB_QUERY)
    { return LakeOperators.SET_DEFAULT.createCall(s.end(this), column, value); }
  |
    <NOT> <NULL> { return LakeOperators.SET_NOT_NULL.createCall(s.end(this), column); }
  |
    <COMMENT> value = StringLiteral()
    { return LakeOperators.SET_COMMENT.createCall(s.end(this), column, value); }
  )
|
  <DROP>
  (
    <DEFAULT_> { return LakeOperators.SET_DEFAULT.createCall(s.end(this), column, null); }
  |
    <NOT> <NULL> { return LakeOperators.DROP_NOT_NULL.createCall(s.end(this), column); }
  |
    <COMMENT> { return LakeOperators.SET_COMMENT.createCall(s.end(this), column, null); }
  )
}

<#-- COMMENT ON COLUMN path IS 'text' | NULL. -->
SqlNode CommentOn() :
{
  final Span s;
  final SqlIdentifier column;
  SqlNode value = null;
}
{
  <COMMENT> { s = span(); } <ON> <COLUMN> column = ColumnPath()
  <IS> ( value = StringLiteral() | <NULL> )
  { return LakeOperators.COMMENT_ON.createCall(s.end(this), column, value); }
}

<#-- START TRANSACTION [ISOLATION LEVEL …] [, READ ONLY | READ WRITE]. -->
SqlNode StartTransaction() :
{
  final Span s;
  final SqlNodeList modes;
}
{
  <START> { s = span(); } <TRANSACTION> { modes = new SqlNodeList(getPos()); }
  [ TransactionMode(modes) ( <COMMA> TransactionMode(modes) )* ]
  { return LakeOperators.START_TRANSACTION.createCall(s.end(this), (SqlNode) modes); }
}

void TransactionMode(SqlNodeList modes) :
{
  final Span s;
  final String mode;
}
{
  (
    <ISOLATION> { s = span(); } <LEVEL>
    (
      <SERIALIZABLE> { mode = "SERIALIZABLE"; }
    |
      <REPEATABLE> <READ> { mode = "REPEATABLE READ"; }
    |
      LOOKAHEAD(2)
      <READ> <COMMITTED> { mode = "READ COMMITTED"; }
    |
      <READ> <UNCOMMITTED> { mode = "READ UNCOMMITTED"; }
    |
      <SNAPSHOT> { mode = "SNAPSHOT"; }
    )
  |
    <READ> { s = span(); } ( <ONLY> { mode = "READ ONLY"; } | <WRITE> { mode = "READ WRITE"; } )
  )
  { modes.add(SqlLiteral.createCharString(mode, s.end(this))); }
}

<#-- COMMIT [WORK] [COMMENT 'text']. -->
SqlNode CommitWork() :
{
  final Span s;
  SqlNode comment = null;
}
{
  <COMMIT> { s = span(); } [ <WORK> ] [ <COMMENT> comment = StringLiteral() ]
  { return LakeOperators.COMMIT.createCall(s.end(this), comment); }
}

<#-- ROLLBACK [WORK]; what names a savepoint is told apart, to be refused. -->
SqlNode RollbackWork() :
{
  final Span s;
  SqlIdentifier savepoint = null;
}
{
  <ROLLBACK> { s = span(); } [ <WORK> ]
  [ <TO> <SAVEPOINT> savepoint = SimpleIdentifier() ]
  { return LakeOperators.ROLLBACK.createCall(s.end(this), savepoint); }
}

SqlNode SetSavepoint() :
{
  final Span s;
  final SqlIdentifier savepoint;
}
{
  ( <SAVEPOINT> { s = span(); } | <RELEASE> { s = span(); } <SAVEPOINT> )
  savepoint = SimpleIdentifier()
  { return LakeOperators.SAVEPOINT.createCall(s.end(this), savepoint); }
}

<#-- CALL procedure([name =>] { TABLE table | expression }, …). -->
SqlNode CallProcedure() :
{
  final Span s;
  final SqlIdentifier procedure;
  final SqlNodeList arguments;
}
{
  <CALL> { s = span(); } procedure = ProcedureName() { arguments = new SqlNodeList(getPos()); }
  <LPAREN> [ CallArgument(arguments) ( <COMMA> CallArgument(arguments) )* ] <RPAREN>
  { return LakeOperators.CALL.createCall(s.end(this), procedure, arguments); }
}

<#-- Some procedures are called as reserved words are. -->
SqlIdentifier ProcedureName() :
{
  final List<String> names = new ArrayList<String>();
  final Span s;
  SqlIdentifier name;
}
{
  name = SimpleIdentifier() { names.add(name.getSimple()); s = Span.of(name); }
  (
    <DOT>
    (
      ( <CHECK> | <POSITION> ) { names.add(token.image); s.add(this); }
    |
      name = SimpleIdentifier() { names.add(name.getSimple()); s.add(name); }
    )
  )*
  { return new SqlIdentifier(names, s.pos()); }
}

SqlIdentifier ArgumentName() :
{
  final SqlIdentifier name;
}
{
  ( <AT> | <FULL> | <TABLE> | <TO> | <WHERE> ) { return new SqlIdentifier(token.image, getPos()); }
|
  name = SimpleIdentifier() { return name; }
}

void CallArgument(SqlNodeList arguments) :
{
  final Span s = Span.of();
  SqlIdentifier name = null;
  SqlIdentifier table = null;
  SqlNode value = null;
}
{
  [ LOOKAHEAD(2) name = ArgumentName() <NAMED_ARGUMENT_ASSIGNMENT> { s.add(name); } ]
  (
    <TABLE> { s.add(this); } table = CompoundIdentifier()
  |
    value = Expression(ExprContext.ACCEPT_NON_QUERY) { s.add(value); }
  )
  {
    arguments.add(
        LakeOperators.ARGUMENT.createCall(
            s.end(table != null ? table : value), name, table, value));
  }
}

<#-- LIFT path [AS column [type]]: a key of the leftovers that becomes a column. -->
SqlNode LiftKey() :
{
  final Span s;
  final SqlIdentifier key;
  SqlIdentifier column = null;
  SqlDataTypeSpec type = null;
}
{
  <LIFT> { s = span(); } key = ColumnPath()
  [ <AS> column = SimpleIdentifier() [ type = DataType() ] ]
  { return LakeOperators.LIFT.createCall(s.end(this), key, column, type); }
}

<#-- WHEN MATCHED THEN { TAKE [columns] | SET assignments | DELETE } [IF condition]. -->
SqlNode ClauseText() :
{
  final Span s;
  final SqlNodeList columns;
  SqlNodeList values = null;
  SqlNode condition = null;
  SqlIdentifier column;
  final SqlOperator what;
}
{
  <WHEN> { s = span(); } <MATCHED> <THEN>
  { columns = new SqlNodeList(getPos()); }
  (
    <TAKE> { what = LakeOperators.TAKE_ROW; }
    [
      LOOKAHEAD(1, { getToken(1).kind != IF })
      column = SimpleIdentifier() { columns.add(column); }
      ( <COMMA> column = SimpleIdentifier() { columns.add(column); } )*
    ]
  |
    <SET> { what = LakeOperators.UPDATE_ROW; values = new SqlNodeList(getPos()); }
    SetColumns(columns, values)
  |
    <DELETE> { what = LakeOperators.DELETE_ROW; }
  )
  [ <IF> condition = Expression(ExprContext.ACCEPT_SUB_QUERY) ]
  {
    return LakeOperators.WHEN_MATCHED.createCall(
        s.end(this), condition, what.createCall(s.end(this), columns, values));
  }
}

<#-- SET SYSTEM_TIME TO point; SET SYSTEM_TIME DEFAULT. -->
SqlNode SetSystemTime() :
{
  final Span s;
  SqlNode point = null;
}
{
  <SET> { s = span(); } <SYSTEM_TIME>
  (
    <TO> point = Expression(ExprContext.ACCEPT_NON_QUERY)
  |
    <DEFAULT_>
  )
  {
    return point == null
        ? LakeOperators.SET_SYSTEM_TIME.createCall(s.end(this))
        : LakeOperators.SET_SYSTEM_TIME.createCall(s.end(this), point);
  }
}

<#-- EXPLAIN [ANALYZE] query. -->
SqlNode ExplainQuery() :
{
  final Span s;
  final SqlNode query;
  boolean measures = false;
}
{
  <EXPLAIN> { s = span(); }
  [ LOOKAHEAD(2) <PLAN> <FOR> ]
  [ LOOKAHEAD(1) <ANALYZE> { measures = true; } ]
  query = OrderedQueryOrExpr(ExprContext.ACCEPT_QUERY)
  {
    return measures
        ? LakeOperators.EXPLAIN_ANALYZE.createCall(s.end(this), query)
        : LakeOperators.EXPLAIN.createCall(s.end(this), query);
  }
}

<#-- CREATE [OR REPLACE] TEMPORARY VIEW name [(columns)] AS query. -->
SqlCreate CreateTemporaryView(Span s, boolean replace) :
{
  final SqlIdentifier name;
  final SqlNode query;
  SqlNodeList columns = null;
}
{
  <TEMPORARY> <VIEW> name = CompoundIdentifier()
  [ columns = ParenthesizedSimpleIdentifierList() ]
  <AS> query = OrderedQueryOrExpr(ExprContext.ACCEPT_QUERY)
  { return SqlDdlNodes.createView(s.end(this), replace, name, columns, query); }
}
