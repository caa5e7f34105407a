import sailings from './sailings.json'

const table = document.querySelector('#sailings')
for (const { leaves, from, to } of sailings) {
  const row = table.insertRow()
  for (const text of [leaves, from, to]) row.insertCell().textContent = text
}
