package main

const planText = `# The plan of Halyard & Moss, a ship chandlery on four coasts. It describes the
# finished table, column by column; how to get there is worked out from it.
# Build with: umbau build

umbau: 1                        # version of the plan format
title: Halyard & Moss sales, all coasts

extracts:                       # what comes in: one entry for each way of delivery
  - files: [raw/Skerries_2024.csv, raw/2023.zip/Skerries*.csv]   # 2023.zip holds the first year
    path: "{region}_{year}"     # two columns of the table stand in the file's name
    unpivot:                    # every header that nothing else claims is a product:
      header: "{product}"       # the header goes to the column product,
      cell: amount              # the cell below it to the column amount
    absent: leave               # this coast sends no quantity

  - files: [raw/Amber*.csv, raw/2023.zip/Amber*.csv]
    path: "{region}_{year}"
    numbers: 1.234,56           # how numbers are written there, by example
    unpivot: { header: "{product}", cell: amount }
    absent: leave

  - files: raw/Long*.csv        # quantity and value side by side: two header rows
    path: "{region}_{year}"
    header: [1, 2]              # joined to Quantity | Dock Line, Value | Dock Line
    dates: 31/12/2024           # 03/04/2024 is a day in April there
    unpivot: { header: "{measure} | {product}", cell: "{measure}" }
    headers: { amount: [Value] }

  - files: raw/Skerries_2025.csv   # a new clerk: one month a column
    path: "{region}_{year}"
    unpivot: { columns: "* 2025", header: "{month}", cell: amount }
    headers: { product: [Article] }
    absent: leave

  - files: raw/*.xlsx           # the Lakes send a workbook, a sheet a year
    sheet: "{year}"             # the year is the sheet's name
    titles: "Coast: {region}"   # the region stands above the table
    unpivot: { header: "{product}", cell: amount }
    totals: tie                 # leave total rows and columns out, and compare them
    absent: leave

fact:                           # the finished table, one entry for each column
  region: text
  year:   year
  branch:                       # typed by hand: GANNET QUAY is Gannet Quay
    is: name
    headers: [Outlet, Branch name]   # what some coasts call it
    blanks: above               # merged cells: the branch stands in the first row only
  manager:                      # looked up in another table, by the branch
    lookup: managers
    by: branch
    take: Manager
    missing: not assigned       # a branch that is not in it
    repeats: first              # one that stands twice: its first line counts
  month:
    is: month                   # 2024-03, Mar 2024, 31/03/2024 are all 2024-03
    headers: [Period]
  product:
    is: name
    book: names/product.csv     # which standard name each seen name stands for
    unknown: hold               # a name that is not in the book: set its rows aside
  quantity:
    is: whole
    blanks: 0
    note: Pieces sold; only Long Sound counts them
  amount:
    is: number
    decimals: 2                 # exactly; roundings are counted
    currency: EUR               # a cell in another currency is unclear
    blanks: 0                   # nothing sold
    nulls: 0                    # n/a, none, -
    texts: 0                    # "closed", "out of stock"
    unclear: hold               # "1,23", "12 pcs": it may be money, a person must look
    errors: hold                # "#N/A" is no zero: the grand total would lie
    note: Net sales in euro
  price:                        # of a piece, where pieces are counted
    formula: amount / quantity
    errors: leave               # nothing sold: no price
    decimals: 2

references:                     # tables in which columns are looked up
  managers: { file: ref/managers.csv }

rows:
  grain: [region, branch, month, product]   # each combination may stand only once
  repeats: stop

ties:                           # what the office of each coast has booked must agree
  - file: control/*.csv
    by: { region: Coast, year: Year }
    measures: { amount: Booked }

deliver:
  - to: out/sales.csv           # appears whole, when every rule has held
  - to: out/sales.xlsx          # all deliveries appear, or none
  - { to: out/sales.parquet, sort: [region, month] }   # in another order
record: out/record              # what was read, changed, held, left out and compared
`
