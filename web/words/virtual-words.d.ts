declare module 'virtual:words/*' {
  const catalogue: import('@lingui/core').Messages
  export default catalogue
}
